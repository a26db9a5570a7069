<!-- How often, on one slider: from the least work to the cleanest group; each stop is a school that suits this
     machine. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import { every, figure, plainly } from '../../ui/format'

  let { rows, onchoose }: { rows: Schemas['SchoolRow'][]; onchoose: (id: string) => void } = $props()
  const stops = $derived(
    rows
      .filter((r) => r.weighed && r.days && r.fits.verdict !== 'refused')
      .sort((a, b) => b.days!.value - a.days!.value || a.minutes!.value - b.minutes!.value),
  )
  const held = $derived(
    Math.max(
      0,
      stops.findIndex((r) => r.chosen),
    ),
  )
  let moved = $state<number>()
  const at = $derived(Math.min(moved ?? held, stops.length - 1))
  const row = $derived(stops[at])
  $effect(() => {
    void rows
    moved = undefined
  })
</script>

{#if row?.weighed}
  {@const w = row.weighed}
  <section class="weigh">
    <label class="label-voice" for="weigh"
      >From the least work to the cleanest group: {stops.length} schools that suit this machine</label
    >
    <input
      id="weigh"
      type="range"
      min="0"
      max={stops.length - 1}
      step="1"
      value={at}
      aria-valuetext="{row.title}: {figure(w.minutes.value)} minutes a {w.per}"
      oninput={(e) => (moved = Number(e.currentTarget.value))}
    />
    <div class="ends label-voice" aria-hidden="true"><span>least work</span><span>cleanest</span></div>
    <p class="three" aria-live="polite">
      <span
        ><b class="huge-voice"><Num worked={w.minutes} text={figure(w.minutes.value)} /></b> minutes a {w.per}</span
      >
      <span
        ><b class="huge-voice"><Num worked={w.grams} text={figure(w.grams.value)} /></b> g of detergent a {w.per}</span
      >
      <span
        ><b class="huge-voice">{w.clean}</b>
        at most <Num worked={row.shots!} text={plainly(row.shots!)} /> shots between two</span
      >
    </p>
    <p class="mt-1">
      <b>{row.title}</b>{row.by_default ? ' (default here)' : ''}: {every(row.interval)}. {row.why}
    </p>
    {#if row.fits.verdict === 'look'}<p class="caution mt-1">
        {row.fits.because.map((r) => r.text).join(' ')}
      </p>{/if}
    {#if row.chosen}<p class="mt-2"><b>This holds now.</b></p>{:else}<button
        type="button"
        class="for-keeper btn btn-primary mt-2"
        onclick={() => onchoose(row.id)}>Choose {row.title.charAt(0).toLowerCase() + row.title.slice(1)}</button
      >{/if}
  </section>
{/if}

<style>
  .weigh {
    padding: 12px 18px 16px;
    border: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  input {
    width: 100%;
  }
  .ends {
    display: flex;
    justify-content: space-between;
  }
  .three {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 8px 20px;
    margin-top: 10px;
  }
  .three b {
    display: block;
    font-size: clamp(40px, 5vw, 64px);
    padding-bottom: 6px;
  }
  @media (max-width: 600px) {
    .three b {
      font-size: 38px;
    }
  }
</style>
