<!-- How a boiler cools, what may be touched when, and two readings of one's own that set it right. -->
<script lang="ts">
  import { scaleLinear } from 'd3-scale'
  import { line } from 'd3-shape'
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { clock, round, short } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  // since: when it was switched off, where somebody waits for it
  let {
    machine,
    version,
    cooling,
    zone,
    since,
    onkept,
  }: {
    machine: string
    version: number
    cooling: Schemas['CoolingShown']
    zone: string
    since?: string
    onkept?: () => void
  } = $props()
  let measured = $state<Schemas['CoolingShown']>()
  const act = new Act()
  let hours = $state<(number | null)[]>([null, null])
  let degrees = $state<(number | null)[]>([null, null])
  const c = $derived(measured ?? cooling)
  const width = 420
  const height = 200
  const edge = { left: 44, right: 14, top: 14, bottom: 38 }
  const most = $derived(Math.max(1, c.curve.at(-1)?.h ?? 1))
  const x = $derived(scaleLinear([0, most], [edge.left, width - edge.right]))
  const y = $derived(scaleLinear([0, Math.max(60, c.from_c)], [height - edge.bottom, edge.top]))
  const path = $derived(
    line<{ h: number; c: number }>(
      (p) => x(p.h),
      (p) => y(p.c),
    )(c.curve) ?? '',
  )
  // no finer than half an hour, and never too soon
  const halves = (h: number) => Math.ceil(h * 2 - 0.01) / 2
  const clockAfter = (from: string, h: number) => clock(new Date(Date.parse(from) + h * 3.6e6).toISOString(), zone)
  const at = (h: number) =>
    `about ${short(halves(h))} h after it was switched off${since ? `, ${clockAfter(since, halves(h))}` : ''}`
  const forHowLong = (minutes: number) =>
    minutes === 0 ? 'longer' : minutes === 1 ? 'for a minute' : `for ${minutes} minutes`

  function now(i: number) {
    if (since) hours[i] = Math.round(((Date.now() - Date.parse(since)) / 3.6e6) * 100) / 100
  }
  const reckon = () =>
    act.try(async () => {
      const reading = (i: number) => ({ after_h: hours[i] ?? 0, c: degrees[i] ?? 0 })
      measured = await ask(
        client.POST('/machines/{machine_id}/boiler/cooling', {
          params: { path: { machine_id: machine } },
          body: { first: reading(0), second: reading(1) },
        }),
      )
    })
  const keep = () =>
    act.try(async () => {
      await ask(
        client.POST('/machines/{machine_id}/facts', {
          params: { path: { machine_id: machine } },
          body: {
            version,
            facts: [{ key: measured!.fact as Schemas['Fact']['key'], value: measured!.tau_h.toPrecision(3) }],
          },
        }),
      )
      onkept?.()
    })
</script>

<ProblemNote
  problem={act.problem}
  take={(m, field) => {
    const list = field.endsWith('.c') ? degrees : hours
    list[field.startsWith('second') ? 1 : 0] = m.value
    void reckon()
  }}
/>
<p>
  Cool enough to drain by hand, below {round(c.safe_c)} °C:
  <b><Num worked={c.opens} text={at(c.opens.value)} /></b>{c.said || measured
    ? ', by readings of its own'
    : ', as boilers of its size usually cool'}. Not by a hand: a thermometer on the drain fitting, or in the first
  50 mL.
</p>
<svg
  viewBox="0 0 {width} {height}"
  class="curve"
  role="img"
  aria-label="From {round(c.from_c)} °C now to {round(c.safe_c)} °C after {short(halves(c.opens.value))} hours"
>
  <line
    x1={edge.left}
    x2={width - edge.right}
    y1={y(c.safe_c)}
    y2={y(c.safe_c)}
    stroke="var(--color-act)"
    stroke-width="2"
    stroke-dasharray="6 5"
  />
  <text x={width - edge.right} y={y(c.safe_c) - 6} text-anchor="end">{round(c.safe_c)} °C: may be drained</text>
  {#each [0, 50, 100].filter((t) => t <= c.from_c) as t (t)}<text x={edge.left - 8} y={y(t) + 5} text-anchor="end"
      >{t}</text
    >{/each}
  <path d={path} fill="none" stroke="currentColor" stroke-width="4" />
  {#each x.ticks(5) as h (h)}<text x={x(h)} y={height - 14} text-anchor="middle">{h} h</text>{/each}
</svg>
<ul class="text-[16px]">
  {#each c.touch as t (t.c)}<li>
      Below <b>{round(t.c)} °C</b> bare metal may be touched {forHowLong(t.minutes)}: {at(t.after_h)}.
    </li>{/each}
</ul>
<details class="mt-1">
  <summary class="min-h-11 cursor-pointer py-2"><b>Two readings of your own</b></summary>
  <p class="text-[16px]">Read a thermometer on the metal twice while it cools, an hour or more apart.</p>
  <form
    class="mt-1 flex flex-wrap items-end gap-3"
    onsubmit={(e) => {
      e.preventDefault()
      void reckon()
    }}
  >
    {#each ['First', 'Second'] as which, i (which)}
      <label class="field"
        >{which}: hours after it was switched off<span class="flex gap-2"
          ><input type="number" step="any" min="0" max="72" required bind:value={hours[i]} />{#if since}<button
              type="button"
              class="btn btn-outline btn-primary"
              onclick={() => now(i)}>now</button
            >{/if}</span
        ></label
      >
      <label class="field"
        >{which}: °C<input type="number" step="any" min="0" max="200" required bind:value={degrees[i]} /></label
      >
    {/each}
    <button class="btn btn-primary">See how it cools</button>
    {#if measured}<button type="button" class="for-keeper btn btn-outline btn-primary" onclick={keep}
        >Save it for this machine</button
      >{/if}
  </form>
</details>

<style>
  .field input {
    width: 130px;
  }
</style>
