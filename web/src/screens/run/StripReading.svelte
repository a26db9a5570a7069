<!-- What a pH strip or a meter reads, with what is seen or tasted beside it. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import PhotoStrip from '../shared/PhotoStrip.svelte'

  let {
    reads,
    pads,
    feed,
    strip = $bindable(),
  }: {
    reads: NonNullable<Schemas['Step']['reads']>
    pads: number[]
    feed?: number
    strip: Schemas['Strip'] | undefined
  } = $props()
  let ph = $state<number | null>(null)
  let meter = $state(false)
  let none = $state(false)
  let cloudy = $state(false)
  let colour = $state<'usual' | 'blue'>('usual')
  let taste = $state<'gone' | 'acid'>()

  $effect(() => {
    const read = none || (ph !== null && ph >= 0 && ph <= 14)
    strip = read
      ? {
          ph: none ? 0 : (ph ?? 0),
          ...(meter && { meter }),
          ...(none && { none }),
          ...(reads === 'spent' && cloudy && { cloudy }),
          ...(reads === 'spent' && colour === 'blue' && { blue: true }),
          ...(reads === 'proof' && taste && { taste }),
        }
      : undefined
  })
</script>

<fieldset class="pads" disabled={none}>
  <legend class="num-voice text-[22px]"
    >pH, by your strip's own chart{#if reads === 'proof' && feed !== undefined}; the water that goes in reads <b
        >{feed.toFixed(1)}</b
      >{/if}</legend
  >
  {#each pads as pad (pad)}
    <label class="pad" class:picked={ph === pad && !none}
      ><input
        class="sr-only"
        type="radio"
        name="ph"
        value={pad}
        checked={ph === pad && !none}
        onchange={() => (ph = pad)}
      /><svg width="44" height="16" viewBox="0 0 44 16" aria-hidden="true"
        ><rect
          x="1"
          y="1"
          width="42"
          height="14"
          fill="none"
          stroke="currentColor"
          stroke-width="2"
        />{#each Array.from({ length: Math.max(0, 9 - Math.round(pad)) }, (_, i) => i) as i (i)}<path
            d="M{4 + i * 5} 15V1"
            stroke="currentColor"
            stroke-width="2.6"
          />{/each}</svg
      >{pad.toFixed(1)}</label
    >
  {/each}
  <label class="exact"
    >exact <input type="number" step="any" min="0" max="14" inputmode="decimal" bind:value={ph} /></label
  >
</fieldset>
<div class="beside">
  <label><input type="checkbox" bind:checked={meter} /> by a meter</label>
  {#if reads === 'spent'}
    <label><input type="checkbox" bind:checked={cloudy} /> it is cloudy</label>
    <label class="copper"
      ><input
        type="checkbox"
        checked={colour === 'blue'}
        onchange={(e) => (colour = e.currentTarget.checked ? 'blue' : 'usual')}
      /> blue or green</label
    >
    <label><input type="checkbox" bind:checked={none} /> not read</label>
  {/if}
</div>
<PhotoStrip
  values={pads}
  ontake={(value) => {
    ph = value
    none = false
  }}
/>
{#if reads === 'proof'}
  <div class="pads" role="radiogroup" aria-label="Taste">
    <span class="num-voice w-full text-[22px]">Where both read the same: a sip, cooled, spat out (or leave it)</span
    >
    {#each [['gone', 'no taste of acid'], ['acid', 'tastes of acid']] as const as [value, text] (value)}
      <label class="pad wide" class:picked={taste === value}
        ><input
          class="sr-only"
          type="radio"
          name="taste"
          {value}
          checked={taste === value}
          onchange={() => (taste = value)}
        />{text}</label
      >
    {/each}
  </div>
{/if}

<style>
  .pads {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0;
  }
  .pads legend {
    margin-bottom: 4px;
  }
  .pad {
    display: grid;
    place-items: center;
    min-width: 74px;
    min-height: 60px;
    margin: 0 -2px -2px 0;
    border: 2px solid currentColor;
    font-size: 24px;
    font-weight: 700;
    font-stretch: 72%;
    cursor: pointer;
  }
  .pad.wide {
    padding: 0 22px;
  }
  .pad.picked {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .pad:has(input:focus-visible) {
    outline: 4px solid var(--color-act);
    outline-offset: 2px;
  }
  .pads:disabled .pad {
    opacity: 0.4;
  }
  .exact {
    display: inline-flex;
    align-items: center;
    gap: 8px;
    margin-left: 18px;
    font-size: 18px;
  }
  .exact input {
    width: 96px;
    height: 60px;
    border: 2px solid currentColor;
    font-size: 24px;
    font-weight: 700;
  }
  .beside {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 28px;
    font-size: 19px;
  }
  .beside label {
    display: inline-flex;
    align-items: center;
    gap: 10px;
    min-height: 48px;
  }
  .beside input {
    width: 26px;
    height: 26px;
    accent-color: var(--color-ink);
  }
  .copper:has(input:checked) {
    color: var(--color-stop);
    font-weight: 700;
  }
  @media (max-width: 600px) {
    .pad {
      min-width: 58px;
    }
    .exact {
      margin-left: 0;
      margin-top: 8px;
    }
  }
</style>
