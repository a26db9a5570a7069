<!-- A machine's life on a strip of drinks: what was done, where now is, when each task falls due. The dates beneath
     stretch and shrink with use. -->
<script lang="ts">
  import { scaleLinear } from 'd3-scale'
  import type { Schemas } from '../../data/api'
  import { dated, day, dayShort, groupOf, round } from '../../ui/format'
  import Pattern from '../../ui/Pattern.svelte'

  type Track = Schemas['TapeTrack']
  let {
    tape,
    tracks,
    several,
    chosen,
    onchoose,
    onmove,
  }: {
    tape: Schemas['Tape']
    tracks: Track[]
    several: boolean
    chosen?: { task: string; part: string; at?: number }
    onchoose: (t: Track) => void
    onmove: (t: Track, days: number, to?: string) => void
  } = $props()
  const uid = $props.id()
  const row = 40
  const top = 32
  let width = $state(1100)
  const drawn = $derived(Math.max(width, 620)) // narrower, it is scrolled
  const left = 8
  const right = $derived(drawn - 26)
  const x = $derived(
    scaleLinear()
      .domain([tape.from, Math.max(tape.to, tape.from + 1)])
      .range([left, right])
      .clamp(true),
  )
  const bottom = $derived(top + tracks.length * row + 8)
  const named = (t: Track) => `${t.title}${several && groupOf(t.part) > 0 ? `, group ${groupOf(t.part)}` : ''}`
  const is = (t: Track) => chosen?.task === t.task && chosen.part === t.part
  const told = (t: Track) =>
    [
      named(t),
      t.due && t.placed && `put on ${day(t.placed, tape.zone)}`,
      t.due ? t.says || `due about ${day(t.due.likely_at, tape.zone)}` : 'not due on this strip',
    ]
      .filter(Boolean)
      .join(', ')
  const red = (t: Track) => t.state === 'overdue'
  const joined = $derived(tape.sittings.filter((s) => s.shown.members.length > 1))
  const inIt = (s: Schemas['TapeSitting'], t: Track) =>
    s.shown.members.some((m) => m.task === t.task && m.part === t.part)
  // where a diamond stands: on the day of its sitting, else on its own
  const stands = (t: Track) =>
    is(t) && chosen?.at !== undefined
      ? chosen.at
      : (tape.sittings.find((s) => inIt(s, t))?.place ?? t.due?.likely ?? tape.to)

  // where it is scrolled, now is in sight with what comes
  let strip = $state<HTMLElement>()
  let scrolled = $state(0) // the names stay in sight
  $effect(() => {
    if (strip && drawn > width) strip.scrollLeft = x(tape.now) - width * 0.4
  })
  let held: Track | undefined
  let box = $state<SVGSVGElement>()
  function under(event: PointerEvent): string | undefined {
    const matrix = box?.getScreenCTM()
    if (!box || !matrix) return undefined
    const at = x.invert(new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse()).x)
    return tape.ahead.reduce((best, t) => (Math.abs(t.at - at) < Math.abs(best.at - at) ? t : best)).day
  }
  function drag(event: PointerEvent) {
    const to = held && under(event)
    if (held && to) onmove(held, 0, to)
  }
  function key(event: KeyboardEvent, t: Track) {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -7, PageDown: 7 }[event.key]
    if (event.key === 'Enter' || event.key === ' ') onchoose(t)
    else if (by) onmove(t, by)
    else return
    event.preventDefault()
  }
</script>

<svelte:window onpointermove={drag} onpointerup={() => (held = undefined)} />
<!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls) -->
<div
  bind:this={strip}
  bind:clientWidth={width}
  class="strip"
  onscroll={() => (scrolled = strip?.scrollLeft ?? 0)}
  tabindex={drawn > width ? 0 : undefined}
  role="region"
  aria-label="The tape"
>
  <svg bind:this={box} viewBox="0 0 {drawn} {bottom + 84}" width={drawn} height={bottom + 84} class="text-ink">
    <defs>
      {#each tracks as t, i (t.task + t.part)}<Pattern id="{uid}-{i}" kind={t.clock ?? 'days'} />{/each}
    </defs>
    <rect x={left} y={top - 8} width={x(tape.now) - left} height={bottom - top} fill="var(--color-slip)" />
    {#each joined as s (s.shown.at)}
      {@const rows = tracks.flatMap((t, i) => (inIt(s, t) ? [i] : []))}
      {#if rows.length > 1}<path
          d="M{x(s.place)} {top + rows[0]! * row + 10}V{top + rows.at(-1)! * row + 34}"
          stroke="var(--color-act)"
          stroke-width="2.5"
          stroke-dasharray="2.5 5"
        />{/if}
    {/each}
    {#each tracks as t, i (t.task + t.part)}
      {@const y = top + i * row}
      <text x={left + scrolled} y={y + 7} class="name">{named(t)}</text>
      <g transform="translate({left} {y + 14})"
        ><rect width={Math.max(0, x(tape.now) - left)} height="16" fill="url(#{uid}-{i})" opacity="0.75" /></g
      >
      {#each t.done as d (d.at)}<rect
          x={x(d.at) - 5}
          y={y + 10}
          width="10"
          height="24"
          fill="var(--color-slip)"
        /><rect x={x(d.at) - 2.5} y={y + 10} width="5" height="24" fill="currentColor"
          ><title>{named(t)}: done {d.day ? dated(d.day, tape.zone) : ''}</title></rect
        >{/each}
    {/each}
    <path d="M{x(tape.now)} 6V{bottom + 34}" stroke="currentColor" stroke-width="4" />
    <text x={x(tape.now) + 8} y="16" class="now">now, {round(tape.now)} drinks</text>
    {#each tracks as t, i (t.task + t.part)}
      {@const y = top + i * row + 22}
      {#if t.due}
        {@const at = x(stands(t))}
        {#each tape.sittings.filter((s) => inIt(s, t) && s.place > stands(t) + 1e-6) as s (s.shown.at)}<path
            d="M{x(s.place)} {y - 6}l6 6l-6 6l-6-6z"
            fill="var(--color-paper)"
            stroke="var(--color-act)"
            stroke-width="2"
          />{/each}
        {@const ink = red(t) ? 'var(--color-stop)' : 'var(--color-act)'}
        <g style:color={ink}>
          <path
            d="M{x(t.due.earliest)} {y}H{x(t.due.latest)}M{x(t.due.earliest)} {y - 7}v14M{x(t.due.latest)} {y -
              7}v14"
            stroke="currentColor"
            stroke-width="2.5"
            fill="none"
          />
          {#if t.moves}
            <g
              class="mark"
              role="button"
              tabindex="0"
              aria-pressed={is(t)}
              aria-label={told(t)}
              onkeydown={(e) => key(e, t)}
              onclick={() => onchoose(t)}
              onpointerdown={() => (held = t)}
            >
              <rect x={at - 22} y={y - 22} width="44" height="44" fill="transparent" />
              <path
                d="M{at} {y - 14}l13 14l-13 14l-13-14z"
                fill={is(t) || t.placed ? 'currentColor' : 'var(--color-paper)'}
                stroke="currentColor"
                stroke-width="3.2"
              />
              <title>{told(t)}</title>
            </g>
          {:else}
            <path d="M{at - 9} {y - 11}h18v22h-18z" fill="var(--color-paper)" stroke="currentColor" stroke-width="3"
              ><title>{told(t)}</title></path
            >
          {/if}
        </g>
      {/if}
    {/each}
    <path d="M{left} {bottom}H{right + 18}" stroke="currentColor" stroke-width="2" />
    {#each tape.uses as t (t.at)}
      <path d="M{x(t.at)} {bottom}v{t.strong ? 14 : 8}" stroke="currentColor" stroke-width={t.strong ? 2 : 1} />
      {#if t.strong}<text x={x(t.at)} y={bottom + 30} text-anchor={x(t.at) < 30 ? 'start' : 'middle'} class="use"
          >{round(t.at)}</text
        >{/if}
    {/each}
    {#each tape.dates as t, i (i)}
      <path d="M{x(t.at)} {bottom + 42}v{t.strong ? 12 : 7}" stroke="var(--color-ink-2)" stroke-width="1" />
      {#if t.strong && t.day}<text
          x={x(t.at)}
          y={bottom + 70}
          text-anchor={x(t.at) < 30 ? 'start' : 'middle'}
          class="date">{dayShort(t.day, tape.zone)}</text
        >{/if}
    {/each}
    {#each tape.pinches as k (k.from)}
      <path d="M{x(k.at) - 14} {bottom + 52}q14-24 28 0" fill="none" stroke="currentColor" stroke-width="1.6" />
      <text x={x(k.at)} y={bottom + 84} text-anchor="middle" class="pinch"
        >{round(k.days)} days without a drink</text
      >
    {/each}
  </svg>
</div>

<style>
  .strip {
    overflow-x: auto;
    touch-action: pan-x pan-y;
  }
  text {
    fill: currentColor;
    font-size: 14px;
    font-stretch: 78%;
  }
  .name {
    paint-order: stroke;
    stroke: var(--color-slip);
    stroke-width: 4px;
    font-weight: 600;
    fill: var(--color-ink-2);
  }
  .now,
  .use {
    font-weight: 700;
    font-variant-numeric: tabular-nums;
  }
  .now {
    font-size: 17px;
    font-stretch: 72%;
  }
  .date {
    fill: var(--color-ink-2);
  }
  .pinch {
    font-style: italic;
    fill: var(--color-ink-2);
  }
  .mark {
    cursor: grab;
    touch-action: none;
  }
  .mark:focus-visible {
    outline: 3px solid var(--color-act);
    outline-offset: -4px;
  }
</style>
