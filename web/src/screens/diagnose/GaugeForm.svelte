<!-- A gauge that is read by itself: its zone, what follows, and on record if that is wished. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { loadHazards } from '../../data/state.svelte'
  import { theMachine } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    machine,
    gauges,
    onlook,
  }: { machine: string; gauges: Schemas['Diagnosis']['gauges']; onlook: (symptom: string) => void } = $props()
  const id = $derived(machine)
  let kept = $state('')
  let which = $state<'steam' | 'pump'>('steam')
  let bar = $state('')
  let shakes = $state(false)
  const page = new Resource<Schemas['GaugeReading']>()
  const gauge = $derived(page.value)
  $effect(() => {
    if (!gauges.includes(which)) which = gauges[0] ?? 'steam'
  })
  const number = $derived(Number(bar.replace(',', '.') || 'NaN'))
  async function judge() {
    kept = ''
    const query = { which, bar: number, ...(which === 'pump' && { shakes }) }
    const params = { path: { machine_id: id }, query }
    const got = await page.ask((signal) => ask(client.GET('/machines/{machine_id}/gauge', { params, signal })))
    if (!got && page.problem) page.show(undefined)
  }
  const keepGauge = () =>
    page.try(async () => {
      const sight = which === 'steam' ? ('steam_bar' as const) : ('pump_bar' as const)
      const body: Schemas['LookIn'] = {
        id: newId(),
        sight,
        part: theMachine,
        verdict: shakes ? 'shakes' : 'usual',
        at: new Date().toISOString(),
        ...(!shakes && { number }),
      }
      await ask(client.POST('/machines/{machine_id}/looks', { params: { path: { machine_id: id } }, body }))
      kept = sight
      await loadHazards()
    })
</script>

<section class="mt-8 max-w-3xl">
  <h2 class="head-voice text-[28px]">Or read a gauge</h2>
  <form
    class="gauge"
    onsubmit={(e) => {
      e.preventDefault()
      void judge()
    }}
  >
    <label
      >Which <select bind:value={which}
        >{#each gauges as g (g)}<option value={g}
            >{g === 'steam' ? 'steam boiler, hot' : 'pump, against the blind'}</option
          >{/each}</select
      ></label
    >
    <label>Bar <input inputmode="decimal" size="5" bind:value={bar} /></label>
    {#if which === 'pump'}<label class="tick"
        ><input type="checkbox" bind:checked={shakes} /> its needle shakes</label
      >{/if}
    <button class="btn btn-primary">Judge it</button>
  </form>
  <ProblemNote problem={page.problem} />
  {#if gauge}
    {@const g = gauge}
    <div class="end" class:stop={g.stops} role={g.stops ? 'alert' : 'status'}>
      <h3 class="head-voice text-[28px]">{g.finding.title}</h3>
      {#each g.finding.next ?? [] as text (text)}<p><b>{text}</b></p>{/each}
      {#each g.finding.because as r (r.text)}<p>{r.text}</p>{/each}
      {#if kept === 'steam_bar' || kept === 'pump_bar'}<p role="status"><b>On record.</b></p>{:else}<button
          type="button"
          class="for-closer linked mr-5"
          onclick={keepGauge}>Put it on record</button
        >{/if}
      {#if g.symptom}{@const what = g.symptom}<button type="button" class="linked" onclick={() => onlook(what)}
          >Look for the cause</button
        >{/if}
    </div>
  {/if}
</section>

<style>
  .gauge {
    display: flex;
    flex-wrap: wrap;
    gap: 12px 20px;
    align-items: center;
    margin-top: 10px;
    font-weight: 600;
  }
  .gauge select,
  .gauge input:not([type='checkbox']) {
    margin-left: 6px;
  }
  .end {
    margin-top: 14px;
    padding: 4px 0 10px 16px;
    border-left: 8px solid var(--color-act);
    font-size: 19px;
  }
  .end.stop {
    border-color: var(--color-stop);
  }
</style>
