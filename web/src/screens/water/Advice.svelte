<!-- The one treatment that is recommended: what it saves a year and what it costs, against what treats the water now.
     -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import { figure, money, round } from '../../ui/format'

  let { advice, onchoose }: { advice: Schemas['WaterAdvice']; onchoose: () => void } = $props()
  const a = $derived(advice)
  const many = (n: number) => (Math.abs(n) >= 2 ? round(Math.abs(n)) : figure(Math.round(Math.abs(n) * 2) / 2))
</script>

<section class="advice">
  <div class="label-voice">Recommended</div>
  {#if a.stay}
    <h2 class="head-voice text-[30px]">Keep it: {a.title.toLowerCase()}</h2>
    <p>{a.because[0]?.text}</p>
  {:else}
    <h2 class="head-voice text-[30px]">{a.title.charAt(0).toUpperCase() + a.title.slice(1)}</h2>
    <ul>
      {#if Math.abs(a.descales.value) >= 0.25}<li>
          <b><Num worked={a.descales} text={many(a.descales.value)} /></b>
          {a.descales.value > 0 ? 'fewer' : 'more'} descales a year
        </li>{/if}
      {#if Math.abs(a.minutes.value) >= 10}<li>
          <b><Num worked={a.minutes} text="{round(Math.round(Math.abs(a.minutes.value) / 10) * 10)} min" /></b>
          {a.minutes.value > 0 ? 'less' : 'more'} work a year
        </li>{/if}
      {#if Math.abs(a.money.value) >= 1}<li>
          <b><Num worked={a.money} text={money(Math.abs(a.money.value))} /></b>
          {a.money.value > 0 ? 'less' : 'more'} money a year
        </li>{/if}
    </ul>
    {#each a.because as r}<p class="text-[15px]">{r.text}</p>{/each}
    <button type="button" class="for-keeper btn btn-primary mt-2" onclick={onchoose}>It treats my water now</button>
  {/if}
</section>

<style>
  .advice {
    padding: 10px 18px 14px;
    border: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  li {
    font-size: 19px;
  }
  li b {
    font-stretch: 72%;
    font-size: 24px;
  }
</style>
