<!-- What else is known of one machine, folded. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import type { Act } from '../../data/resource.svelte'
  import Around from '../../ui/Around.svelte'
  import Fold from '../../ui/Fold.svelte'
  import { groupOf } from '../../ui/format'
  import Boilers from '../shared/Boilers.svelte'
  import Facts from '../shared/Facts.svelte'
  import PlanTicket from '../shared/PlanTicket.svelte'
  import SeenList from '../shared/SeenList.svelte'
  import Sittings from '../shared/Sittings.svelte'
  import Away from './Away.svelte'
  import Counter from './Counter.svelte'
  import Job from './Job.svelte'
  import Ledger from './Ledger.svelte'
  import Plate from './Plate.svelte'
  import UseFile from './UseFile.svelte'

  let {
    m,
    g,
    stopped,
    page,
    onchanged,
    onsigned,
  }: {
    m: Schemas['Machine']
    g: Schemas['Glance']
    stopped: boolean
    page: Act
    onchanged: () => void
    onsigned: () => void
  } = $props()
  let entries = $state(0) // counts up when the ledger was added to elsewhere
  const stateWords: Record<string, string> = { overdue: 'overdue', unrecorded: 'nothing on record', today: 'today' }
  const groupIn = (part: string) => (m.plan.groups > 1 && groupOf(part) > 0 ? `, group ${groupOf(part)}` : '')
  function reread() {
    onchanged()
    entries++
  }
  async function takeBack(look: string) {
    const params = { path: { machine_id: m.id, look_id: look } }
    const gone = () => ask(client.DELETE('/machines/{machine_id}/looks/{look_id}', { params, parseAs: 'text' }))
    if (await page.try(gone)) onchanged()
  }
</script>

<div class="folds">
  {#if m.found.length > 0}
    <Fold
      title="What was found"
      note={m.fits.length > 0
        ? `to fit: ${m.fits.map((f) => `${f.what}${groupIn(f.part)}`).join(', ')}`
        : `${m.found.length} ${m.found.length === 1 ? 'look' : 'looks'}`}
    >
      <SeenList list={m.found} groups={m.plan.groups} zone={m.zone} machine={m.id} ontake={takeBack} />
    </Fold>
  {/if}
  {#if m.sittings.length > 0}
    <Fold title="In one sitting" note="what is done together, and when">
      <p class="mb-2 max-w-2xl">
        What is done together; the run says in which order. A task comes up to a third of its time early where that
        saves a laying out, a cooling down or a shut supply (our own choice). The daily jobs ride along.
      </p>
      <Sittings
        list={m.sittings}
        zone={m.zone}
        groups={m.plan.groups}
        machine={m.id}
        busy={m.open_run !== undefined || m.hazards.length > 0}
      />
    </Fold>
  {/if}
  <Fold title="Every job, with its date" note={`${m.plan.dues.length} of them`}>
    <ul>
      {#each m.plan.dues as due (due.task + due.part)}
        <li>
          <details class="job">
            <summary
              ><b>{due.title}{groupIn(due.part)}</b><span class:text-stop={due.state === 'overdue'}
                >{#if stateWords[due.state]}{stateWords[due.state]}{:else if due.days}<Around
                    {due}
                    zone={m.zone}
                  />{/if}</span
              ></summary
            ><Job {m} {due} {stopped} {onchanged} {onsigned} />
          </details>
        </li>
      {/each}
    </ul>
  </Fold>
  <Fold title="What the answers come to" note="dose, intervals, assumptions"
    ><div class="max-w-xl"><PlanTicket plan={m.plan} zone={m.zone} /></div></Fold
  >
  <Boilers machine={m.id} zone={m.zone} onkept={onchanged} />
  <Fold title="How it is used, and who may do what" note="facts of the whole machine">
    <Facts
      machine={m.id}
      version={m.version}
      facts={g.parts.find((x) => x.spot === 'machine')?.facts ?? []}
      {onchanged}
    />
  </Fold>
  <Fold title="Days nobody is there" note={m.away.length > 0 ? `${m.away.length} entered` : ''}>
    <Away machine={m.id} list={m.away} {onchanged} />
  </Fold>
  <Fold title="The machine's own counter"
    ><Counter machine={m.id} zone={m.zone} counter={m.counter} onread={reread} /></Fold
  >
  <Fold title="Use from a file" whose="keeper"><UseFile machine={m.id} zone={m.zone} onkept={reread} /></Fold>
  <Fold title="Use, newest first"
    >{#key entries}<Ledger machine={m.id} zone={m.zone} {onchanged} />{/key}</Fold
  >
  <Fold
    title="Whose it is, its plate, parts and a photo"
    note={[m.owner, g.plate.serial].filter(Boolean).join(', ')}
    ><Plate machine={m} plate={g.plate} fitted={g.fitted} {onchanged} /></Fold
  >
</div>

<style>
  .folds {
    padding: 4px 32px 60px;
    max-width: 1100px;
  }
  .job {
    border-bottom: 1px solid var(--color-rule);
  }
  .job summary {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: center;
    gap: 0 20px;
    min-height: 46px;
    cursor: pointer;
  }
  .job[open] {
    padding-bottom: 20px;
  }
  @media (max-width: 1000px) {
    .folds {
      padding-left: 20px;
      padding-right: 20px;
    }
  }
</style>
