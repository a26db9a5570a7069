<!-- What was read of a source: pads of a strip, drops, a meter, or a report. The sample is tried in the machine as it
     is typed. -->
<script lang="ts">
  import { ask, client, newId, type Problem, type Schemas } from '../../data/api'
  import ReadingsFile from './ReadingsFile.svelte'
  import ReportFile from './ReportFile.svelte'
  import { Act } from '../../data/resource.svelte'
  import { during, hardnessUnits } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { prefs } from '../../data/state.svelte'

  let {
    sources,
    strip,
    refused,
    onsample,
    onkept,
  }: {
    sources: Schemas['WaterSource'][]
    strip: Schemas['StripPads'][]
    refused: Problem | undefined
    onsample: (s: Schemas['WaterSample'] | undefined) => void
    onkept: (source: string) => void
  } = $props()
  type How = Schemas['NewReading']['how']
  let how = $state<How>('strip')
  // svelte-ignore state_referenced_locally
  let source = $state(sources[0]?.id ?? '')
  let name = $state('')
  let pads = $state<number>()
  let unit = $state<Schemas['Preferences']['hardness']>(prefs.hardness)
  let hardness = $state('')
  let alkalinity = $state('')
  let more = $state<Record<string, string>>({})
  let taken = $state('')
  const act = new Act()
  const ways: [How, string][] = [
    ['strip', 'test strip'],
    ['drops', 'drop kit'],
    ['meter', 'meter'],
    ['report', 'supplier’s report'],
  ]
  const others = [
    ['ph', 'pH'],
    ['ca_mg_l', 'calcium, mg/L'],
    ['mg_mg_l', 'magnesium, mg/L'],
    ['na_mg_l', 'sodium, mg/L'],
    ['cl_mg_l', 'chloride, mg/L'],
    ['so4_mg_l', 'sulfate, mg/L'],
    ['tds_mg_l', 'dissolved solids, mg/L'],
    ['conductivity_us_cm', 'conductivity, µS/cm'],
  ] as const

  // what was typed goes to the server as it is: how a number is written is not for the page to know
  const typed = (said: string | undefined) => (said?.trim() ? { text: said.trim() } : undefined)
  const sample = $derived.by((): Schemas['WaterSample'] | undefined => {
    const out: Record<string, unknown> = {}
    if (how === 'strip' && pads !== undefined) out.pads = pads
    const h = how === 'strip' ? undefined : typed(hardness)
    if (h) out.hardness = { ...h, unit }
    const a = typed(alkalinity)
    if (a) out.alkalinity = { ...a, unit }
    for (const [field] of others) {
      const v = typed(more[field])
      if (v) out[field] = v
    }
    return Object.keys(out).length > 0 ? (out as Schemas['WaterSample']) : undefined
  })
  $effect(() => onsample(sample))

  // what was probably meant goes into the field it was meant for
  function take(m: Schemas['Meant'], path: string) {
    const text = String(m.value)
    const field = path.replace(/^sample\./, '').replace(/\.value$/, '')
    act.problem = undefined
    if (field === 'hardness') hardness = text
    else if (field === 'alkalinity') alkalinity = text
    else more[field] = text
  }
  const fresh = newId() // of a source that is not kept yet
  const at = $derived(source || fresh)
  const when = $derived(taken ? during(taken) : new Date().toISOString())

  async function withSource() {
    if (!source) await ask(client.POST('/waters', { body: { id: fresh, name: name.trim() || 'Tap' } }))
  }
  const keep = () =>
    act.try(async () => {
      await withSource()
      const body = { id: newId(), taken: when, how, sample: sample! }
      await ask(client.POST('/waters/{source_id}/readings', { params: { path: { source_id: at } }, body }))
      onkept(at)
    })
</script>

<form
  class="grid gap-4"
  onsubmit={(e) => {
    e.preventDefault()
    if (sample) void keep()
  }}
>
  <div class="flex flex-wrap gap-x-6 gap-y-2" role="radiogroup" aria-label="How it was read">
    {#each ways as [value, label] (value)}
      <label class="tick"><input type="radio" name="how" {value} bind:group={how} /> {label}</label>
    {/each}
  </div>
  {#if how === 'strip'}
    <fieldset>
      <legend class="label-voice"
        >How many pads of the strip have turned? Use your strip's own chart if it differs.</legend
      >
      <div class="pads">
        {#each strip as { pads: i, low, high } (i)}
          <label class="pad"
            ><input class="sr-only" type="radio" name="pads" value={i} bind:group={pads} />
            <svg viewBox="0 0 20 92" aria-hidden="true"
              >{#each [0, 1, 2, 3] as q (q)}<rect
                  x="2"
                  y={2 + q * 23}
                  width="16"
                  height="18"
                  fill={q < i ? 'currentColor' : 'none'}
                  stroke="currentColor"
                  stroke-width="1.6"
                />{/each}</svg
            >
            <span><b>{i}</b><br />{low}–{high} °dH</span>
          </label>
        {/each}
      </div>
    </fieldset>
  {:else}
    <div class="flex flex-wrap gap-4">
      <label class="field"
        >Hardness<input inputmode="decimal" bind:value={hardness} placeholder="14 or 12..16" /></label
      >
      <label class="field"
        >in<select bind:value={unit}
          >{#each hardnessUnits as u (u.id)}<option value={u.id}>{u.text}</option>{/each}</select
        ></label
      >
    </div>
  {/if}
  <details open={how === 'report' || how === 'meter'}>
    <summary class="min-h-11 cursor-pointer py-2"
      >alkalinity, pH and the rest, if you have them; another unit may follow the number, such as 52 mS/m</summary
    >
    <div class="mt-1 flex flex-wrap gap-4">
      <label class="field">Alkalinity, in the same unit<input inputmode="decimal" bind:value={alkalinity} /></label>
      {#each others as [field, label] (field)}<label class="field"
          >{label}<input inputmode="decimal" bind:value={more[field]} /></label
        >{/each}
    </div>
  </details>
  {#if how === 'report'}<ReportFile source={at} {when} {withSource} onkept={() => onkept(at)} />{/if}
  <details>
    <summary class="min-h-11 cursor-pointer py-2"
      >{source ? (sources.find((s) => s.id === source)?.name ?? '') : name || 'Tap'}, read {taken || 'today'}:
      another source, or another day</summary
    >
    <div class="flex flex-wrap gap-4">
      <label class="field"
        >Source
        <select bind:value={source}>
          {#each sources as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
          <option value="">a new one</option>
        </select>
      </label>
      {#if !source}<label class="field">Its name<input bind:value={name} placeholder="Tap" maxlength="80" /></label
        >{/if}
      <label class="field">Read on<input type="date" bind:value={taken} /></label>
    </div>
  </details>
  <ProblemNote problem={act.problem ?? refused} {take} />
  <div><button class="btn btn-primary" disabled={!sample}>Save this reading</button></div>
  <details>
    <summary class="min-h-11 cursor-pointer py-2">many readings, from a table</summary>
    <ReadingsFile source={at} {withSource} onkept={() => onkept(at)} />
  </details>
</form>

<style>
  .field input,
  .field select {
    min-width: 150px;
  }
  .pads {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(130px, 1fr));
    margin-top: 6px;
    padding: 0.75px;
  }
  .pad {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 96px;
    padding: 8px 14px;
    border: 1.5px solid var(--color-ink);
    margin: -0.75px;
    background: var(--color-slip);
    font-size: 15px;
    line-height: 1.15;
    cursor: pointer;
  }
  .pad svg {
    height: 58px;
  }
  .pad b {
    font-stretch: 66%;
    font-size: 38px;
    line-height: 1;
  }
  .pad:has(input:checked) {
    background: var(--color-ink);
    color: var(--color-paper);
  }
</style>
