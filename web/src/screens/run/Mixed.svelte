<!-- A batch to mix: how much in how much water, and what was really weighed out, in one press where it is one of the
     usual. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import { amount, figure, poured, round } from '../../ui/format'
  import type { Stage } from './stage.svelte'

  let { s, mix }: { s: Stage; mix: Schemas['Batch'] } = $props()
  const measured = (w: Schemas['Worked']) =>
    w.unit === 'sachets'
      ? `${round(w.value)} ${w.value === 1 ? 'sachet' : 'sachets'}`
      : amount(w.value >= 10 ? Math.round(w.value) : w.value, w.unit)
  const said = $derived(mix.measure.value >= 10 ? Math.round(mix.measure.value) : mix.measure.value)
  const usual = $derived([
    { text: 'as it says', value: null },
    { text: 'half of it', value: said / 2 },
    { text: 'none: left out', value: 0 },
  ])
</script>

<h1 class="huge-voice dose"><Num worked={mix.measure} text={measured(mix.measure)} /></h1>
<p class="head-voice text-[44px]">in <Num worked={mix.water} text={poured(mix.water.value)} /> of water</p>
{#if s.allowed('done')}
  <div class="really" role="radiogroup" aria-label="What really went in">
    <span class="w-full text-[17px] font-semibold">Really went in:</span>
    {#each usual as u (u.text)}
      <label class="pick"
        ><input
          class="sr-only"
          type="radio"
          name="mixed"
          checked={s.mixed === u.value}
          onchange={() => (s.mixed = u.value)}
        />{u.text}</label
      >
    {/each}
    <label class="typed"
      >or <input
        type="number"
        min="0"
        step="any"
        inputmode="decimal"
        placeholder={figure(said)}
        aria-label="Weighed out, {mix.measure.unit}"
        bind:value={s.mixed}
      />
      {mix.measure.unit}</label
    >
  </div>
{/if}

<style>
  .really {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 0;
  }
  .pick {
    display: grid;
    place-items: center;
    min-height: 52px;
    padding: 0 18px;
    margin-right: -2px;
    border: 2px solid currentColor;
    font-stretch: 80%;
    font-weight: 600;
    font-size: 18px;
    cursor: pointer;
  }
  .pick:has(input:checked) {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .pick:has(input:focus-visible) {
    outline: 4px solid var(--color-act);
    outline-offset: 2px;
  }
  .typed {
    margin-left: 16px;
    font-size: 18px;
  }
  .typed input {
    width: 120px;
    height: 52px;
    margin-inline: 6px;
    border: 2px solid currentColor;
    font-weight: 700;
  }
</style>
