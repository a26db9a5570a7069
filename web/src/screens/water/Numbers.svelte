<!-- The water in numbers: as it was read, as it reaches the machine, and what was read when. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Hardness from '../../ui/Hardness.svelte'
  import Num from '../../ui/Num.svelte'
  import { day, round, short, told } from '../../ui/format'

  let {
    w,
    waters,
    onsource,
    ondate,
    onforget,
  }: {
    w: Schemas['WaterAtWork']
    waters: Schemas['Waters'] | undefined
    onsource: (id: string) => void
    ondate: (reading: string, on: string) => void
    onforget: (reading: string) => void
  } = $props()
  const spread = (r: Schemas['ReadingOut']) =>
    r.high - r.low > 0.01 * Math.max(1, r.likely) ? ` (${short(r.low)} to ${short(r.high)})` : ''
  const wide = (v: Schemas['Worked']) =>
    v.high - v.low > 0.01 * Math.max(1, v.value) ? ` (${told(v, v.low)} to ${told(v, v.high)})` : ''
  const hows: Record<Schemas['WaterReading']['how'], string> = {
    strip: 'strip',
    drops: 'drop kit',
    meter: 'meter',
    report: 'report',
  }
</script>

<p class="mb-2">
  {#if w.source}{w.source.name}{:else}By the five answers{/if}, through {w.treatment_title}.
  {#if (waters?.sources.length ?? 0) > (w.source ? 1 : 0)}
    <label class="for-keeper label-voice"
      >It draws from
      <select class="ml-1.5" value={w.source?.id ?? ''} onchange={(e) => onsource(e.currentTarget.value)}>
        {#if !w.source}<option value="">the five answers</option>{/if}
        {#each waters?.sources ?? [] as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
      </select></label
    >
  {/if}{#if !w.known}
    <b>Nobody has read it yet.</b>{/if}
</p>
<Hardness hardness={w.raw.hardness} />
<p class="mt-2">
  Alkalinity <b><Num worked={w.raw.alkalinity} text={round(w.raw.alkalinity.value)} /></b>{wide(w.raw.alkalinity)} mg/L,
  pH <b><Num worked={w.raw.ph} text={short(w.raw.ph.value)} /></b>{wide(w.raw.ph)}.
</p>
<p class="mt-2">
  At the machine: hardness <b><Num worked={w.reaches.here} text={round(w.reaches.here.value)} /></b>{wide(
    w.reaches.here,
  )}, alkalinity <b><Num worked={w.reaches.alkalinity} text={round(w.reaches.alkalinity.value)} /></b>{wide(
    w.reaches.alkalinity,
  )} mg/L, pH <b><Num worked={w.reaches.ph} text={short(w.reaches.ph.value)} /></b>. A litre drops
  <b><Num worked={w.falls} text={w.falls.value > 0 ? `${short(w.falls.value)} mg` : 'nothing'} /></b>{w.falls.high >
  0
    ? wide({ ...w.falls, low: Math.max(0, w.falls.low) })
    : ''} when it brews{w.extrapolated ? ', extrapolated beyond 90 °C' : ''}.
</p>
<p class="mt-2" class:caution={w.corrosion.verdict === 'look'}>
  <b>{w.corrosion.title}.</b>
  {w.corrosion.because.map((r) => r.text).join(' ')}{#each w.corrosion.next ?? [] as n}
    <b>{n}</b>{/each}
</p>
{#if w.probe}<p class="caution mt-2">{w.probe.text}</p>{/if}
{#if w.says.length > 0}
  <details class="mt-2">
    <summary class="min-h-11 cursor-pointer py-2"><b>Assumptions ({w.says.length})</b></summary>
    <ul class="text-[15px]">
      {#each w.says as r}<li>{r.text}</li>{/each}
    </ul>
  </details>
{/if}
{#if w.source && w.source.readings.length > 0}
  <h3 class="label-voice mt-3">What was read, newest first</h3>
  <ul class="text-[15px]">
    {#each w.source.readings as r (r.id)}
      <li class="border-rule flex justify-between gap-3 border-b py-1">
        <span
          ><b>{day(r.taken, w.zone)}</b>, {hows[r.how]}: {#if r.unreadable}<b class="text-stop"
              >It cannot be read any more. Undo it and read the water again.</b
            >{/if}{r.said
            .map((s) => `${s.label} ${short(s.value.likely)}${spread(s.value)} ${s.unit}`.trim())
            .join(', ')}</span
        >
        <span class="for-keeper flex items-center gap-3">
          <label class="text-ink-2 text-[15px]"
            >read on <input
              class="min-h-11 bg-transparent"
              type="date"
              onchange={(e) => e.currentTarget.value && ondate(r.id, e.currentTarget.value)}
              aria-label="the day it was read: {day(r.taken, w.zone)}"
            /></label
          >
          <button type="button" class="linked text-act whitespace-nowrap" onclick={() => onforget(r.id)}
            >undo</button
          >
        </span>
      </li>
    {/each}
  </ul>
{/if}
