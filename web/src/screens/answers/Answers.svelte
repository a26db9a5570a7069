<!-- The five answers: one question a screen on a phone, all of them beside the plan where there is room. -->
<script lang="ts">
  import { MediaQuery } from 'svelte/reactivity'
  import { tick } from 'svelte'
  import { navigate, p, route } from '../../router'
  import type { Due } from '../../data/api'
  import { dayShort, dayStart, localZone } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { Given, type Question } from './answers.svelte'
  import FirstPlan from './FirstPlan.svelte'
  import OneAnswer from './OneAnswer.svelte'

  const machineId = $derived((route.params as { id?: string }).id)
  const given = $derived(new Given(machineId))
  const phone = new MediaQuery('max-width: 700px')
  let at = $state(0)
  const asked = $derived(given.questions[Math.min(at, given.questions.length - 1)]!)
  const short: Record<Question, string> = {
    layout: 'how it is built',
    valve: 'the valve',
    drinks: 'drinks a day',
    milk: 'milk drinks a day',
    hardness: 'the hardness',
    treatment: 'what treats the water',
    before: 'new, or used before',
    since: '',
    end: '',
  }

  $effect(() => {
    document.title = 'Five answers · Fresh Anvil'
    void given.load()
  })
  $effect(() => {
    void [given.answers, given.isNew, given.washed, given.descaled, given.changed]
    if (!given.answers) return
    const wait = setTimeout(() => void given.look(), 120)
    return () => clearTimeout(wait)
  })
  let form = $state<HTMLElement>()
  async function go(to: number) {
    at = Math.max(0, Math.min(to, given.questions.length - 1))
    await tick()
    scrollTo(0, 0)
    const field = form?.querySelector<HTMLElement>('input[type=number]') ?? form?.querySelector<HTMLElement>('h2')
    field?.focus()
  }
  const last = $derived(
    asked === 'end' || (machineId !== undefined && given.missing.length === 0 && asked === 'since'),
  )
  function next(q: Question) {
    if (phone.current && asked === q && given.answered(q)) void go(at + 1)
  }
  async function submit(event: SubmitEvent) {
    event.preventDefault()
    if (phone.current && !last) return next(asked)
    if (await given.save(dayStart))
      await (machineId ? navigate('/machines/:id', { params: { id: machineId } }) : navigate('/'))
  }
  const whenShort = (due: Due) =>
    due.state === 'unrecorded' || due.now
      ? 'now'
      : due.daily
        ? 'daily'
        : dayShort(due.likely, localZone).replace(' ', '\u00a0')
  // the plan in one line: in reach at every question
  const line = $derived(
    given.plan?.first
      ?.map((f) =>
        f.due ? `${f.title} ${whenShort(f.due)}` : (f.none?.text.split(':')[0] ?? '').replace(/\.$/, ''),
      )
      .join(' · '),
  )
</script>

{#if given.problem?.field === 'machine_id'}
  <div class="px-5 md:px-8"><ProblemNote problem={given.problem} /></div>
{:else}
  <form class="sheet" onsubmit={submit} novalidate bind:this={form}>
    <div class="questions">
      {#if phone.current}
        <div class="flex items-baseline gap-4">
          <h1 class="label-voice">Five answers</h1>
          <span class="label-voice">{at + 1} of {given.questions.length}</span>{#if at > 0}<button
              type="button"
              class="linked"
              onclick={() => go(at - 1)}>Back</button
            >{/if}
        </div>
        {#key asked}<OneAnswer {given} question={asked} onpicked={() => next(asked)} />{/key}
        {#if asked === 'end' && given.plan}<div class="mt-4">
            <FirstPlan plan={given.plan} zone={localZone} />
          </div>{/if}
      {:else}
        <div class="flex flex-wrap items-baseline justify-between gap-x-8">
          <h1 class="huge-voice text-[clamp(40px,5vw,64px)]">Five answers</h1>
          {#if !machineId}<a
              class="inline-flex min-h-11 items-center underline underline-offset-4"
              href={p('/machines/many')}>Several machines, or a file</a
            >{/if}
        </div>
        {#each given.questions as q (q)}<OneAnswer {given} question={q} />{/each}
      {/if}
    </div>

    <aside class="torn ticket">
      {#if !phone.current}
        {#if given.answers && given.plan}
          <FirstPlan plan={given.plan} zone={localZone} />
        {:else if given.problem && !given.problem.field}
          <ProblemNote problem={given.problem} />
        {:else if given.wrong}
          <div class="label-voice">Cannot be as it is</div>
          <p class="head-voice mt-2 text-[28px]">{short[given.wrong]}</p>
        {:else}
          <div class="label-voice">Still to answer</div>
          <ul class="head-voice mt-2 text-[28px]">
            {#each given.missing as m (m)}<li>{short[m]}</li>{/each}
          </ul>
        {/if}
      {/if}
      <div class="keep">
        {#if given.kept}<ProblemNote problem={given.kept} />{/if}
        {#if line}<p class="line" aria-live="polite">{line}</p>{/if}
        {#if phone.current && !last}
          <button class="btn btn-primary w-full" disabled={!given.answered(asked)}>Next</button>
        {:else}
          <button class="btn btn-primary w-full" disabled={!given.plan || given.missing.length > 0}
            >{machineId ? 'Save these answers' : 'Save this machine'}</button
          >
        {/if}
      </div>
    </aside>
  </form>
{/if}

<style>
  .sheet {
    display: grid;
    grid-template-columns: 1fr 450px;
    flex-grow: 1;
  }
  .questions {
    padding: 24px 40px 60px 32px;
    max-width: 900px;
  }
  .ticket {
    padding: 24px 32px 0;
    display: flex;
    flex-direction: column;
  }
  .keep {
    position: sticky;
    bottom: 0;
    z-index: 2;
    margin: auto -32px 0;
    padding: 14px 32px 18px;
    background: var(--color-slip);
    border-top: 1px solid var(--color-rule);
  }
  .line {
    margin-bottom: 10px;
    font-stretch: 75%;
    font-weight: 700;
  }
  @media (max-width: 1000px) {
    .sheet {
      grid-template-columns: 1fr;
    }
    .questions {
      padding: 12px 20px 24px;
    }
    .ticket {
      padding: 20px 20px 0;
    }
    .keep {
      margin: auto -20px 0;
      padding: 12px 20px;
    }
  }
  @media (max-width: 700px) {
    .sheet {
      grid-template-rows: 1fr auto;
    }
    .ticket {
      border: 0;
      padding-top: 0;
      position: sticky;
      bottom: 0;
    }
  }
</style>
