<!-- What to do with a machine that is not descaled by its keeper: treat the water, draw off, book a workshop. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p } from '../../router'
  import { theMachine } from '../../ui/format'
  import StartWash from '../shared/StartWash.svelte'

  let { machine, offers }: { machine: string; offers: Schemas['Offer'][] } = $props()
  let text = $state('')
  let kept = $state(false)
  const act = new Act()
  let id = newId()

  async function keep(event: SubmitEvent) {
    event.preventDefault()
    await act.try(async () => {
      await ask(
        client.POST('/machines/{machine_id}/notes', {
          params: { path: { machine_id: machine } },
          body: { id, text },
        }),
      )
      kept = true
      id = newId()
    })
  }
</script>

<section class="mt-5">
  <h2 class="head-voice text-[clamp(30px,4vw,52px)]">Instead</h2>
  <div class="offers">
    {#each offers as o (o.kind)}
      <div class="offer">
        <h3 class="head-voice text-[26px]">{o.title}</h3>
        <p>{o.why}</p>
        {#if o.kind === 'treat_water'}
          <a class="btn btn-primary justify-self-start" href={p('/machines/:id/water', { params: { id: machine } })}
            >See the treatments</a
          >
        {:else if o.kind === 'draw_off'}
          <div><StartWash {machine} parts={[theMachine]} task="draw_off" text="Lead me" line /></div>
        {:else}
          <form class="for-closer grid gap-2" onsubmit={keep}>
            <label class="field"
              >Who, and when<input bind:value={text} maxlength="500" placeholder="bench in town, Friday" /></label
            >
            <ProblemNote problem={act.problem} />
            {#if kept}<p role="status">
                <b>Noted.</b> It stands in the
                <a class="underline underline-offset-4" href={p('/machines/:id/log', { params: { id: machine } })}
                  >log</a
                >.
              </p>{/if}
            <button class="btn btn-outline btn-primary justify-self-start" disabled={text.trim() === ''}
              >Save the note</button
            >
          </form>
        {/if}
      </div>
    {/each}
  </div>
</section>

<style>
  .offers {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(280px, 1fr));
    border-top: 2px solid var(--color-ink);
  }
  .offer {
    display: grid;
    align-content: start;
    gap: 10px;
    padding: 14px 24px 18px 0;
  }
</style>
