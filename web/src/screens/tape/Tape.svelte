<!-- A machine's life on an axis of use, and what is done together of what is to come. A task may be put on another
     day, at a price that is said. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type BenchMachine, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { dated, day, groupOf, listed, round } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, p, route } from '../../router'
  import Sittings from '../shared/Sittings.svelte'
  import { askBench, isPlain } from '../../data/state.svelte'
  import TapeStrip from './TapeStrip.svelte'
  import TapeWords from './TapeWords.svelte'

  type Track = Schemas['TapeTrack']
  const zooms = [
    { weeks: 4, text: 'a month' },
    { weeks: 13, text: 'a quarter' },
    { weeks: 52, text: 'a year' },
    { weeks: 104, text: 'two years' },
  ]
  const page = new Resource<Schemas['Tape']>()
  const tape = $derived(page.value)
  let machines = $state<BenchMachine[]>([])
  let zoom = $state(1)
  let chosen = $state<{ task: Track['task']; part: string; on: string }>()
  const id = $derived((route.params as { id?: string }).id ?? machines[0]?.id ?? '')
  const machine = $derived(machines.find((m) => m.id === id))
  const track = $derived(tape?.tracks.find((t) => t.task === chosen?.task && t.part === chosen?.part))
  const several = $derived((machine?.groups ?? 1) > 1)
  const named = (t: Track) => `${t.title}${several && groupOf(t.part) > 0 ? `, group ${groupOf(t.part)}` : ''}`
  const isoDay = (iso: string, zone: string) =>
    new Intl.DateTimeFormat('en-CA', { timeZone: zone, year: 'numeric', month: '2-digit', day: '2-digit' }).format(
      new Date(iso),
    )
  const later = (iso: string, days: number) =>
    new Date(Date.parse(iso + 'T12:00:00Z') + days * 86_400_000).toISOString().slice(0, 10)
  function falls(t: Track): string {
    const [from, likely, to] = [t.due!.earliest_at, t.due!.likely_at, t.due!.latest_at].map((at) =>
      day(at, tape!.zone),
    )
    return from === to ? `Due ${likely}.` : `Due about ${likely}, between ${from} and ${to}.`
  }
  const today = $derived(tape ? isoDay(tape.now_at, tape.zone) : '')
  const place = $derived(tape?.ahead.find((t) => t.day && isoDay(t.day, tape!.zone) === chosen?.on)?.at)

  askBench().then(
    (b) => (machines = b.machines),
    (error: unknown) => (page.problem = problemOf(error)),
  )
  async function load() {
    if (!id) return
    const query = { weeks: zooms[zoom]!.weeks, ...chosen }
    const params = { path: { machine_id: id }, query }
    const got = await page.ask((signal) => ask(client.GET('/machines/{machine_id}/tape', { params, signal })))
    if (got) document.title = `Tape, ${got.machine_name} · Fresh Anvil`
  }
  $effect(() => void load())

  const standsOn = (t: Track) => {
    const s = tape?.sittings.find((x) => x.shown.members.some((m) => m.task === t.task && m.part === t.part))
    return isoDay(s?.shown.at ?? t.due?.likely_at ?? tape!.now_at, tape!.zone)
  }
  function choose(t: Track) {
    chosen =
      track && track.task === t.task && track.part === t.part
        ? undefined
        : { task: t.task, part: t.part, on: standsOn(t) }
  }
  function move(t: Track, days: number, to?: string) {
    const same = chosen?.task === t.task && chosen.part === t.part
    const on = to ? isoDay(to, tape!.zone) : later(same ? chosen!.on : standsOn(t), days)
    if (on < today || (same && chosen!.on === on)) return
    chosen = { task: t.task, part: t.part, on }
  }
  const at = $derived({ params: { path: { machine_id: id } }, parseAs: 'text' as const })
  const keep = () =>
    put((c) => client.POST('/machines/{machine_id}/placings', { ...at, body: { id: newId(), ...c } }))
  const free = () =>
    put(({ task, part }) => {
      const params = { path: { machine_id: id, task, part } }
      return client.DELETE('/machines/{machine_id}/placings/{task}/{part}', { params, parseAs: 'text' })
    })
  async function put(call: (c: NonNullable<typeof chosen>) => Promise<{ data?: string; response: Response }>) {
    if (chosen && (await page.try(() => ask(call(chosen!))))) chosen = undefined
  }
  function key(event: KeyboardEvent) {
    if (!isPlain(event)) return
    if (event.key === '+' || event.key === '=') zoom = Math.max(0, zoom - 1)
    if (event.key === '-') zoom = Math.min(zooms.length - 1, zoom + 1)
    if (event.key === 'Escape') chosen = undefined
  }
  // other sittings that it might join
  const others = (t: Schemas['Tape'], of: Track) =>
    t.sittings
      .filter((s) => isoDay(s.shown.at, t.zone) !== chosen?.on)
      .filter((s) => !s.shown.members.some((m) => m.task === of.task && m.part === of.part))
      .slice(0, 2)
  const shown = $derived(tape?.tracks.filter((t) => t.due || t.done.length > 0) ?? [])
  const farOff = $derived(tape?.tracks.filter((t) => !t.due && t.done.length === 0) ?? [])
  const next = $derived(tape?.sittings[0])
</script>

<svelte:window onkeydown={key} />
{#if page.problem && !(tape && chosen)}<div class="m-4 sm:m-8"><ProblemNote problem={page.problem} /></div>{/if}
{#if tape}
  {@const t = tape}
  <div class="p-4 sm:px-8 sm:py-5">
    <div class="flex flex-wrap items-end justify-between gap-x-8 gap-y-3">
      <div>
        <p class="label-voice">
          <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{t.machine_name}</a>
        </p>
        <h1 class="huge-voice text-[clamp(40px,5.4vw,68px)]">
          {next ? (next.shown.now ? 'Now' : day(next.shown.at, t.zone)) : 'Nothing ahead'}
        </h1>
        {#if next}<p class="text-[19px]">{next.shown.head}.</p>{/if}
      </div>
      <div class="grid justify-items-end gap-2">
        {#if machines.length > 1}
          <label class="label-voice"
            >Machine <select
              class="ml-1 text-[16px]"
              value={id}
              onchange={(e) => navigate('/machines/:id/tape', { params: { id: e.currentTarget.value } })}
              >{#each machines as m (m.id)}<option value={m.id}>{m.name}</option>{/each}</select
            ></label
          >
        {/if}
        <div class="flex" role="group" aria-label="How much is shown">
          {#each zooms as z, i (z.weeks)}<button
              type="button"
              class="pick"
              aria-pressed={zoom === i}
              onclick={() => (zoom = i)}>{z.text}</button
            >{/each}
        </div>
      </div>
    </div>
    <p class="label-voice mt-3 text-right">
      The strip runs in drinks since {dated(t.since, t.zone)}; the dates below stretch with use.
    </p>
    {#if t.tracks.length === 0}<p class="mt-4">
        Nothing of this machine comes round: its answers give no task a date.
      </p>{:else}
      <TapeStrip
        tape={t}
        tracks={shown}
        {several}
        chosen={chosen && { ...chosen, ...(place !== undefined && { at: place }) }}
        onchoose={choose}
        onmove={move}
      />
    {/if}
    {#if farOff.length > 0}<p class="label-voice mt-1">
        Later than this strip reaches: {listed(farOff.map((x) => named(x).toLowerCase()))}.
      </p>{/if}
    {#if chosen && track}
      <section class="move" aria-label="Put {named(track)} on another day">
        <div>
          <h2 class="head-voice text-[24px]">{named(track)}: {day(chosen.on + 'T12:00:00Z', 'UTC')}</h2>
          {#if page.problem}<ProblemNote problem={page.problem} />{:else if t.move}
            <p aria-live="polite">
              {t.move.says.text}{t.move.with.length > 0
                ? ` With it: ${listed(t.move.with.map((x) => x.toLowerCase()))}.`
                : ' It is done by itself.'}
            </p>
          {/if}
          {#if !track.due?.likely_at || track.state !== 'later'}<p class="label-voice">{track.says}</p>{:else}<p
              class="label-voice"
            >
              {falls(track)}
            </p>{/if}
        </div>
        <div class="keys">
          <button type="button" class="btn btn-outline" onclick={() => move(track, -1)}>A day earlier</button>
          <button type="button" class="btn btn-outline" onclick={() => move(track, 1)}>A day later</button>
          <label class="label-voice"
            >Or on <input type="date" class="text-[16px]" min={today} bind:value={chosen.on} /></label
          >
          {#each others(t, track) as s (s.shown.at)}
            <button
              type="button"
              class="btn btn-outline"
              onclick={() => (chosen = { ...chosen!, on: isoDay(s.shown.at, t.zone) })}
              >With those of {s.shown.now ? 'today' : day(s.shown.at, t.zone)}</button
            >
          {/each}
          <button type="button" class="for-keeper btn btn-primary" disabled={!!page.problem} onclick={keep}
            >Put it on this day</button
          >
          {#if track.placed}<button type="button" class="for-keeper btn btn-outline btn-primary" onclick={free}
              >Let it fall on its own day</button
            >{/if}
          <button type="button" class="btn btn-ghost" onclick={() => (chosen = undefined)}>Cancel</button>
        </div>
      </section>
    {:else if t.tracks.some((x) => x.moves && x.due)}
      <p class="for-keeper label-voice mt-1">
        Press a diamond to put a task on another day, or drag it; by keys: Tab, then the arrows. A square is not
        yours to move.
      </p>
    {/if}
    {#if t.sittings.length > 0}
      <h2 class="head-voice mt-8 text-[28px]">In one sitting</h2>
      <p class="mb-2 max-w-3xl">
        About {round(t.minutes)} minutes of your time until {day(t.to_at, t.zone)}{t.at_best > 0 &&
        t.minutes > t.at_best * 1.005
          ? `; no way of putting it together is below ${round(t.at_best)}`
          : ''}.
      </p>
      <Sittings
        list={t.sittings.map((s) => s.shown)}
        zone={t.zone}
        groups={machine?.groups ?? 1}
        machine={id}
        busy={machine?.open_run !== undefined || (machine?.hazards.length ?? 0) > 0}
      />
    {/if}
    <TapeWords {t} machine={id} {named} {falls} />
  </div>
{:else if machines.length === 0 && !page.problem}
  <p class="m-4 sm:m-8">
    No machine stands on the bench yet. <a class="for-keeper underline underline-offset-4" href={p('/machines/new')}
      >Add a machine</a
    >
  </p>
{/if}

<style>
  .move {
    display: grid;
    grid-template-columns: minmax(260px, 1fr) minmax(0, 1.6fr);
    gap: 12px 32px;
    padding: 12px 0 12px 16px;
    border-left: 8px solid var(--color-act);
  }
  .keys {
    display: flex;
    flex-wrap: wrap;
    gap: 10px;
    align-items: center;
  }
  @media (max-width: 760px) {
    .move {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
