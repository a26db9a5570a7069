<!-- Ways of doing it, on the ruler of one machine's own use: a year each. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { plainly } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import YearStrip from '../../ui/YearStrip.svelte'

  let { rows, onchoose }: { rows: Schemas['SchoolRow'][]; onchoose: (id: string) => void } = $props()
</script>

<div class="row heads label-voice" aria-hidden="true">
  <span></span><span>a post for each, over a year</span><span>shots</span><span>days</span><span>a year</span><span
    >g a year</span
  ><span>min a year</span><span></span>
</div>
<ul class="border-ink border-t-2">
  {#each rows as row (row.id)}
    <li class="row" class:chosen={row.chosen}>
      <div>
        <b class="num-voice text-[20px]">{row.title}</b>
        {#if row.by_default}<span class="label-voice ml-1">default here</span>{/if}
        {#if row.method !== 'water_only'}<div class="text-[15px]">
            {row.method_name ? `${row.method_name}, ` : ''}{row.every_title}
          </div>{/if}
        <div class="label-voice">{row.why}</div>
        {#if row.fits.verdict !== 'fine'}<div
            class="mt-1 text-[15px]"
            class:text-stop={row.fits.verdict === 'refused'}
          >
            {row.fits.verdict === 'refused' ? row.fits.title : row.fits.because.map((r) => r.text).join(' ')}
          </div>{/if}
      </div>
      {#if row.days}
        <div class="strip"><YearStrip days={row.days.value} strong={row.chosen} /></div>
        <span class="n"><i>shots</i><Num worked={row.shots!} text={plainly(row.shots!)} /></span>
        <span class="n"><i>days</i><Num worked={row.days} text={plainly(row.days)} /></span>
        <span class="n"><i>a year</i><Num worked={row.times!} text={plainly(row.times!)} /></span>
        <span class="n"><i>g a year</i><Num worked={row.grams!} text={plainly(row.grams!)} /></span>
        <span class="n"><i>min a year</i><Num worked={row.minutes!} text={plainly(row.minutes!)} /></span>
      {:else}
        <div class="none">{row.fits.next?.[0] ?? row.fits.title}</div>
      {/if}
      <div class="do">
        {#if row.chosen}<b>holds now</b>{:else if row.days}<button
            type="button"
            class="for-keeper btn btn-outline btn-primary"
            aria-label="Choose {row.title}"
            onclick={() => onchoose(row.id)}>Choose</button
          >{/if}
      </div>
    </li>
  {/each}
</ul>

<style>
  .row {
    display: grid;
    grid-template-columns: 270px minmax(140px, 1fr) repeat(5, 68px) 112px;
    gap: 4px 14px;
    align-items: center;
    padding: 10px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .heads {
    padding: 6px 0 2px;
    border: 0;
    margin-top: 8px;
  }
  .heads span:nth-child(n + 3) {
    text-align: right;
  }
  .chosen {
    background: var(--color-act-soft);
    margin-inline: -16px;
    padding-inline: 16px;
  }
  .n {
    text-align: right;
    font-stretch: 70%;
    font-weight: 700;
    font-size: 19px;
  }
  .n i {
    display: none;
  }
  .none {
    grid-column: 2 / 8;
    font-size: 15px;
  }
  .do {
    text-align: right;
  }
  .do .btn {
    padding: 6px 14px;
    font-size: 16px;
  }
  @media (max-width: 1000px) {
    .heads {
      display: none;
    }
    .row {
      grid-template-columns: repeat(5, 1fr);
    }
    .row > :first-child,
    .strip,
    .none,
    .do {
      grid-column: 1 / -1;
    }
    .do {
      text-align: left;
    }
    .n {
      text-align: left;
    }
    .n i {
      display: block;
      font-style: normal;
      font-size: 13px;
      font-weight: 600;
      color: var(--color-ink-2);
    }
  }
</style>
