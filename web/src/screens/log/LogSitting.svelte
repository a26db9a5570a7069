<!-- One sitting of the log: what was done in one, its sentences when it is opened. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { clock, round, weekday } from '../../ui/format'

  type Entry = Schemas['LogEntry']
  let {
    lines,
    single,
    oncorrect,
  }: { lines: Entry[]; single: boolean; oncorrect: (e: Entry, to?: string) => void } = $props()
  const first = $derived(lines[0]!)
  const words: Partial<Record<Entry['outcome'], string>> = {
    stopped: 'stopped before the dose',
    stopped_unsafe: 'stopped, something left in',
    noted: 'a note',
  }
  const ended = $derived(
    first.taken_back
      ? 'taken back: counts for nothing'
      : lines.map((e) => words[e.outcome]).find((w) => w !== undefined),
  )
  const unsafe = $derived(lines.some((e) => e.outcome === 'stopped_unsafe'))
  const minutes = $derived(Math.max(0, ...lines.map((e) => e.minutes ?? 0)))
  const who = $derived([...new Set(lines.map((e) => e.by).filter((x) => !!x))].join(', '))
  // of one line its sentences stand there at once; of several they are opened
  const told = (e: Entry) => [...e.did, e.proof].filter(Boolean).join(' ')
  const said = $derived(lines.length === 1 ? told(first) : '')
  let dates = $state<Record<string, string>>({})
</script>

<li class="sitting">
  <div class="num-voice text-[19px]">
    {weekday(first.at, first.zone)}<span class="label-voice block">{clock(first.at, first.zone)}</span>
  </div>
  <details class="told">
    <summary
      ><b class:line-through={first.taken_back}>{first.jobs ?? first.title}</b>{#if !single}<span class="text-ink-2"
          >, {first.machine_name}</span
        >{/if}{#if ended}<span class="block" class:text-stop={unsafe}>{ended}</span>{/if}{#if who}<span
          class="label-voice block">by {who}</span
        >{/if}{#if first.sent}<span class="label-voice block">put in by {first.sent}</span
        >{/if}{#if lines.some((e) => e.was_at)}<span class="label-voice block"
          >date corrected, was {weekday(lines.find((e) => e.was_at)!.was_at!, first.zone)}</span
        >{/if}{#if first.paper}<span class="label-voice block"
          >paper {first.paper}{first.paper_dated ? `, of ${weekday(first.paper_dated, first.zone)}` : ''}</span
        >{/if}{#if said}<span class="block text-[15px]">{said}</span>{/if}</summary
    >
    {#each lines as e (e.id)}
      <div class="line" class:bare={lines.length === 1 ? said || !e.run_id : !told(e)}>
        {#if lines.length > 1}<b>{e.titled}.</b>{/if}
        {#if lines.length > 1 || !said}{told(e) || (e.run_id ? 'Led to its end.' : 'Put on record by hand.')}{/if}
        {#if e.counts}
          <span class="for-closer flex flex-wrap items-center gap-2 py-1 print:hidden">
            <button type="button" class="minor" onclick={() => oncorrect(e)}>Undo</button>
            {#if !e.run_id}
              <label class="minor gap-2"
                >it was on <input
                  class="bg-transparent"
                  type="date"
                  bind:value={dates[e.id]}
                  aria-label="the day it was done: {e.title}"
                /></label
              >
              {#if dates[e.id]}<button type="button" class="minor" onclick={() => oncorrect(e, dates[e.id])}
                  >Save that day</button
                >{/if}
            {/if}
          </span>
        {/if}
      </div>
    {/each}
  </details>
  <div class="num-voice text-right text-[19px]">{minutes >= 1 ? `${round(minutes)} min` : ''}</div>
</li>

<style>
  .sitting {
    display: grid;
    grid-template-columns: 118px minmax(0, 1fr) 76px;
    gap: 4px 18px;
    align-items: baseline;
    border-bottom: 1px solid var(--color-rule);
  }
  summary {
    min-height: 48px;
    padding: 6px 0;
    cursor: pointer;
    list-style: none;
  }
  summary b::after {
    content: ' +';
    color: var(--color-act);
  }
  details[open] summary b::after {
    content: ' –';
  }
  @media print {
    .sitting {
      break-inside: avoid;
    }
    summary {
      min-height: 0;
      padding: 3px 0 0;
    }
    summary b::after {
      content: none !important;
    }
    /* what its title says already */
    .bare {
      display: none;
    }
  }
  .line {
    max-width: 760px;
    padding: 2px 0 8px;
    font-size: 16px;
  }
  @media (max-width: 600px) {
    .sitting {
      grid-template-columns: 84px minmax(0, 1fr) auto;
      gap: 4px 12px;
    }
  }
</style>
