<!-- What it is, or may be: what to do, who may, and what of it is led. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { loadHazards } from '../../data/state.svelte'
  import { navigate, p } from '../../router'
  import { groupParts, theMachine } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import Lead from '../shared/Lead.svelte'
  import StartWash from '../shared/StartWash.svelte'

  let {
    d,
    f,
    machine,
    run,
    symptom,
  }: {
    d: Schemas['Diagnosis']
    f: NonNullable<Schemas['Diagnosis']['finding']>
    machine: string
    run: string
    symptom: string
  } = $props()
  const id = $derived(machine)
  const first = $derived(f.causes[0]!)
  let kept = $state('')
  const act = new Act()
  // detergent is in the group: on record, so that nobody drinks from it, and the bench leads its rinse
  async function foams(part: string) {
    await act.try(async () => {
      await ask(
        client.POST('/machines/{machine_id}/looks', {
          params: { path: { machine_id: id } },
          body: { id: newId(), sight: 'cup', part, verdict: 'foamy', at: new Date().toISOString() },
        }),
      )
      await loadHazards()
      await navigate('/')
    })
  }
  async function keep(cause: string) {
    await act.try(async () => {
      await ask(
        client.POST('/machines/{machine_id}/diagnosis', {
          params: { path: { machine_id: id } },
          body: { id: newId(), symptom, cause },
          parseAs: 'text',
        }),
      )
      kept = cause
    })
  }
  const ends = {
    led: 'It is led',
    hand: 'A hand does it',
    licensed: 'For a technician',
    normal: 'That is as it should be',
    stop: 'Stop',
  }
</script>

<ProblemNote problem={act.problem} />
{#each f.sure ? [first] : f.causes.filter((x) => x.share >= 0.05) as cause (cause.id)}
  <article class="end" class:stop={cause.end === 'stop'}>
    <p class="label-voice">{ends[cause.end]}{f.sure ? '' : `, ${cause.words}`}</p>
    {#if !f.sure}<h2 class="head-voice text-[24px]">{cause.title}</h2>{/if}
    {#each cause.do as text (text)}<p>{text}</p>{/each}
    {#if cause.task && run}<p class="mt-2">
        <b>Finish the run first, or stop it. Then it is led from the machine’s page.</b>
      </p>
    {:else if cause.task && !f.symptom.stops}
      {#if cause.begins === 'card'}<a
          class="btn btn-primary mt-2"
          href={p('/machines/:id/descale', { params: { id } })}>See the descale card</a
        >
      {:else if cause.begins === 'handle'}
        <div class="answers">
          {#each groupParts(d.groups) as part (part)}<StartWash
              machine={id}
              parts={[part]}
              task="unblock"
              more={{ locked_in: true }}
              text="{d.groups > 1 ? `Group ${part.slice(6)}: the` : 'The'} handle is locked in"
            /><StartWash
              machine={id}
              parts={[part]}
              task="unblock"
              more={{ locked_in: false }}
              text="{d.groups > 1 ? `Group ${part.slice(6)}: the` : 'The'} handle is out"
              line
            />{/each}
        </div>
      {:else if cause.begins === 'foam'}
        <div class="answers">
          {#each groupParts(d.groups) as part (part)}<button
              type="button"
              class="for-closer btn btn-primary"
              onclick={() => foams(part)}
              >{d.groups > 1 ? `Group ${part.slice(6)} foams` : 'It foams'}: no drinks, rinse it</button
            >{/each}
        </div>
      {:else if cause.whose === 'anybody'}
        <div class="answers">
          {#each cause.groups ? groupParts(d.groups) : [theMachine] as part (part)}<StartWash
              machine={id}
              parts={[part]}
              task={cause.task as Schemas['NewRun']['task']}
              text="{cause.task_title}{cause.groups && d.groups > 1 ? `, group ${part.slice(6)}` : ''}: lead me"
            />{/each}
        </div>
      {:else if cause.whose === 'entitled'}
        {#each cause.groups ? groupParts(d.groups) : [theMachine] as part (part)}
          {#if cause.groups && d.groups > 1}<p class="mt-2"><b>Group {part.slice(6)}</b></p>{/if}
          <Lead machine={id} due={{ task: cause.task, whose: 'entitled' }} parts={[part]} />
        {/each}
      {:else}<a class="btn btn-outline btn-primary mt-2" href={p('/machines/:id', { params: { id } })}
          >Put it on record when it is done</a
        >{/if}
    {/if}
    {#if kept === cause.id}<p role="status" class="mt-2"><b>Kept:</b> it counts the next time.</p>
    {:else if !kept}<button type="button" class="for-closer linked mt-1" onclick={() => keep(cause.id)}
        >That was it</button
      >{/if}
  </article>
{/each}

<style>
  .answers {
    display: flex;
    flex-wrap: wrap;
    gap: 12px;
    margin-top: 14px;
  }
  .answers :global(.btn) {
    min-height: 60px;
    font-size: 19px;
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
