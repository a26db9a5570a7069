<!-- Several machines: a row each, owner and place first, everything else as on the last; by keyboard, Enter saves the
     row. Or from a file. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { prefs } from '../../data/state.svelte'
  import { p } from '../../router'
  import { hardnessUnits, localZone, treatments } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import ListFile from './ListFile.svelte'

  type Answers = Schemas['Answers']
  let signs = $state<Schemas['LayoutSign'][]>([])
  let row = $state({
    owner: '',
    place: '',
    name: '',
    layout: 'hx_home' as Answers['layout'],
    valve: 'yes' as Answers['valve'],
    drinks: 4,
    milk: 2,
    hardness: '' as number | '' | null,
    treatment: 'none' as Answers['treatment'],
    used: true,
  })
  let kept = $state<{ id: string; text: string }[]>([])
  const act = new Act()
  let id = newId()
  let last = -Infinity // when a row was saved
  let typed = true // something was, since: a double Enter is one
  let first = $state<HTMLInputElement>()
  const sign = $derived(signs.find((s) => s.layout === row.layout))
  ask(client.GET('/layouts')).then(
    (l) => (signs = l.layouts),
    (error: unknown) => (act.problem = problemOf(error)),
  )
  $effect(() => {
    document.title = 'Several machines · Fresh Anvil'
    first?.focus()
  })

  // Enter frees the row at once: what is typed next is never moved or cleared by an answer that comes late. A row that
  // was refused stands below, and is put back by a press.
  type Row = typeof row
  let refused = $state<{ row: Row; problem: Problem }[]>([])
  function keep(event: SubmitEvent) {
    event.preventDefault()
    if (!typed && event.timeStamp - last < 700) return
    last = event.timeStamp
    typed = false
    const r = { ...row }
    const as = id
    id = newId()
    row.name = ''
    first?.focus()
    first?.select()
    void send(r, as)
  }
  function putBack(at: number) {
    row = refused[at]!.row
    refused = refused.filter((_, i) => i !== at)
    first?.focus()
  }
  function take(at: number, field: string, value: number) {
    const r = refused[at]!.row
    const key = field.endsWith('milk_drinks_per_day')
      ? 'milk'
      : field.endsWith('drinks_per_day')
        ? 'drinks'
        : 'hardness'
    refused = refused.filter((_, i) => i !== at)
    if (row[key] === r[key]) row[key] = value // the next row is as the last one
    void send({ ...r, [key]: value }, newId())
  }
  async function send(r: Row, as: string) {
    const sign = signs.find((s) => s.layout === r.layout)
    const known = typeof r.hardness === 'number'
    const valve = sign?.valve === 'ask' ? r.valve : (sign?.valve ?? 'cannot_tell')
    const answers: Answers = {
      layout: r.layout,
      valve: valve as Answers['valve'],
      drinks_per_day: r.drinks,
      milk_drinks_per_day: r.milk,
      hardness: known ? { known, value: r.hardness as number, unit: prefs.hardness } : { known: false },
      treatment: r.treatment,
    }
    try {
      const m = await ask(
        client.POST('/machines', {
          body: {
            id: as,
            name: r.name.trim() || sign?.title || 'Machine',
            owner: r.owner.trim(),
            place: r.place.trim(),
            zone: localZone,
            answers,
            ...(!r.used && { new_since: new Date().toISOString() }),
          },
        }),
      )
      kept = [{ id: m.id, text: [m.owner, m.place, m.name].filter(Boolean).join(', ') }, ...kept]
    } catch (error) {
      refused = [...refused, { row: r, problem: problemOf(error) }]
    }
  }
  const unit = $derived(hardnessUnits.find((u) => u.id === prefs.hardness)?.text ?? '')
</script>

<div class="px-5 pt-5 pb-16 md:px-8">
  <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">Several machines</h1>
  <p class="mt-2 max-w-3xl">
    Tab goes on, Enter saves the row. What you leave is as on the last one. Leave the hardness empty if nobody knows
    it.
  </p>
  <form class="row" onsubmit={keep} oninput={() => (typed = true)} novalidate>
    <label class="field wide"
      >Owner<input
        bind:this={first}
        bind:value={row.owner}
        maxlength="80"
        onfocus={(e) => e.currentTarget.select()}
      /></label
    >
    <label class="field wide"
      >Place<input bind:value={row.place} maxlength="80" onfocus={(e) => e.currentTarget.select()} /></label
    >
    <label class="field wide"
      >Name<input bind:value={row.name} maxlength="80" placeholder={sign?.title ?? ''} /></label
    >
    <label class="field wide"
      >How it is built<select
        bind:value={row.layout}
        onkeydown={(e) => e.key === 'Enter' && (e.preventDefault(), e.currentTarget.form?.requestSubmit())}
        >{#each signs as s (s.layout)}<option value={s.layout}>{s.title}</option>{/each}</select
      ></label
    >
    {#if sign?.valve === 'ask'}<label class="field"
        >Three-way valve<select bind:value={row.valve}
          ><option value="yes">yes</option><option value="no">no</option><option value="cannot_tell"
            >can't tell</option
          ></select
        ></label
      >{/if}
    <label class="field"
      >Drinks a day<input
        type="number"
        min="0"
        step="any"
        bind:value={row.drinks}
        onfocus={(e) => e.currentTarget.select()}
      /></label
    >
    <label class="field"
      >With milk<input
        type="number"
        min="0"
        step="any"
        bind:value={row.milk}
        onfocus={(e) => e.currentTarget.select()}
      /></label
    >
    <label class="field"
      >Hardness, {unit}<input
        type="number"
        min="0"
        step="any"
        bind:value={row.hardness}
        onfocus={(e) => e.currentTarget.select()}
      /></label
    >
    <label class="field wide"
      >Treated by<select bind:value={row.treatment}
        >{#each Object.entries(treatments) as [key, text] (key)}<option value={key}>{text}</option>{/each}</select
      ></label
    >
    <label class="tick"><input type="checkbox" bind:checked={row.used} /> used before</label>
    <button class="btn btn-primary">Save it</button>
  </form>
  <ProblemNote problem={act.problem} />
  {#each refused as r, i (r)}
    <section class="mt-2" aria-live="polite">
      <h2 class="font-semibold">Not saved: {[r.row.owner, r.row.place, r.row.name].filter(Boolean).join(', ')}</h2>
      <ProblemNote problem={r.problem} take={(m, field) => take(i, field, m.value)} />
      <button type="button" class="linked" onclick={() => putBack(i)}>Put it back into the row</button>
    </section>
  {/each}
  {#if kept.length > 0}
    <section class="mt-6" aria-live="polite">
      <h2 class="head-voice text-[24px]">{kept.length} saved</h2>
      <ol>
        {#each kept as k (k.id)}<li class="border-rule border-b py-2">
            <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: k.id } })}>{k.text}</a>
          </li>{/each}
      </ol>
    </section>
  {/if}
  <section class="mt-10">
    <h2 class="head-voice text-[24px]">From a file</h2>
    <ListFile zone={localZone} />
  </section>
</div>

<style>
  .row {
    display: grid;
    grid-template-columns: repeat(12, minmax(0, 1fr));
    gap: 10px 14px;
    align-items: end;
    margin-top: 16px;
    padding: 14px 16px 18px;
    border: 2px solid var(--color-ink);
    background: var(--color-slip);
  }
  .field,
  .wide {
    grid-column: span 3;
  }
  input:not([type='checkbox']),
  select {
    width: 100%;
  }
  .tick {
    display: flex;
    align-items: center;
    gap: 10px;
    min-height: 48px;
  }
  .btn {
    grid-column: span 2;
  }
  @media (max-width: 900px) {
    .field,
    .tick,
    .wide,
    .btn {
      grid-column: span 6;
    }
  }
</style>
