<!-- What if: other water, other use, another treatment. Nothing is kept. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { round, short } from '../../ui/format'
  import type { Tried } from './water.svelte'

  let { w, most, tried, asking }: { w: Schemas['WaterAtWork']; most: number; tried: Tried; asking: boolean } =
    $props()
</script>

<div class="if">
  <label class="slide"
    >hardness of the tap<b>{round(tried.hardness ?? w.hardness_mg_l)} mg/L</b>
    <input
      type="range"
      min="0"
      max="450"
      step="5"
      value={tried.hardness ?? w.hardness_mg_l}
      oninput={(e) => {
        tried.sample = undefined
        tried.hardness = Number(e.currentTarget.value)
      }}
    /></label
  >
  <label class="slide"
    >drinks a day<b>{round(tried.drinks ?? w.drinks)}</b>
    <input
      type="range"
      min="0"
      max={most}
      step="1"
      value={tried.drinks ?? w.drinks}
      oninput={(e) => (tried.drinks = Number(e.currentTarget.value))}
    /></label
  >
  <label class="slide"
    >hours a day switched on<b>{short(tried.hours ?? w.hours_on)}</b>
    <input
      type="range"
      min="0.5"
      max="24"
      step="0.5"
      value={tried.hours ?? w.hours_on}
      oninput={(e) => (tried.hours = Number(e.currentTarget.value))}
    /></label
  >
  <label class="slide"
    >what treats it
    <select
      value={tried.kind ?? w.treatment.kind}
      onchange={(e) => (tried.kind = e.currentTarget.value as Tried['kind'])}
      >{#each w.table as r (r.setting.kind)}<option value={r.setting.kind}>{r.title}</option>{/each}</select
    ></label
  >
  <button
    type="button"
    class="btn btn-outline btn-primary mt-1 self-start"
    disabled={!asking}
    onclick={() => tried.reset()}>Undo</button
  >
  <p class="text-ink-2 text-[15px]">
    Nothing is kept. A date from a hardness alone takes the rest as waters usually are.
  </p>
</div>

<style>
  .if {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
    gap: 12px 28px;
    align-items: end;
  }
  .slide {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 2px 10px;
    font-size: 16px;
  }
  .slide input,
  .slide select {
    grid-column: 1 / -1;
    width: 100%;
  }
  p {
    grid-column: 1 / -1;
  }
  @media print {
    .if {
      display: none;
    }
  }
</style>
