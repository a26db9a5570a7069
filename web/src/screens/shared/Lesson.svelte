<!-- What the first discharges say about the interval: one press to take it, one to undo. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { every, round } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    machine,
    lesson,
    onchanged,
  }: { machine: string; lesson: Schemas['Lesson']; onchanged?: (s: Schemas['Schools']) => void } = $props()
  let taken = $state<Schemas['Interval']>()
  let problem = $state<Problem>()

  async function change(kind: 'take' | 'undo') {
    try {
      const now = await ask(
        client.POST('/machines/{machine_id}/interval-changes', {
          params: { path: { machine_id: machine } },
          body: { id: newId(), kind },
        }),
      )
      taken = kind === 'take' ? now.current.interval : undefined
      problem = undefined
      onchanged?.(now)
    } catch (error) {
      problem = problemOf(error)
    }
  }
</script>

<section class="lesson" aria-label="What the first discharge teaches">
  {#if taken}
    <p><b>Taken:</b> {every(taken)}.</p>
    <button type="button" class="btn btn-outline btn-primary self-start" onclick={() => change('undo')}>Undo</button>
  {:else}
    <h2 class="head-voice text-[24px]">
      {lesson.finding.title}{#if lesson.interval}: {every(lesson.interval)}{/if}
    </h2>
    {#each lesson.finding.because as r}<p>{r.text}</p>{/each}
    {#each lesson.finding.next ?? [] as n}<p><b>{n}</b></p>{/each}
    {#if lesson.proposed && lesson.factor}
      <p>
        <Num
          worked={lesson.factor}
          text="{round(Math.abs(1 - lesson.factor.value) * 100)} % {lesson.factor.value < 1 ? 'sooner' : 'later'}"
        /> than usual.
      </p>
      <button type="button" class="btn btn-primary self-start" onclick={() => change('take')}>Use this interval</button
      >
    {/if}
  {/if}
  {#if problem}<ProblemNote {problem} />{/if}
</section>

<style>
  .lesson {
    display: grid;
    gap: 6px;
    justify-items: start;
    border-top: 2px solid var(--color-rule);
    padding-top: 14px;
    max-width: 40em;
    font-size: 18px;
  }
</style>
