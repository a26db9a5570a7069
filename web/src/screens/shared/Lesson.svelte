<!-- What the first discharges say about the interval: one press to take it, one to undo. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { every, round } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    machine,
    lesson,
    onchanged,
  }: { machine: string; lesson: Schemas['Lesson']; onchanged?: (s: Schemas['Schools']) => void } = $props()
  let taken = $state<Schemas['Interval']>()
  const act = new Act()

  async function change(kind: 'take' | 'undo') {
    await act.try(async () => {
      const now = await ask(
        client.POST('/machines/{machine_id}/interval-changes', {
          params: { path: { machine_id: machine } },
          body: { id: newId(), kind },
        }),
      )
      taken = kind === 'take' ? now.current.interval : undefined
      onchanged?.(now)
    })
  }
</script>

<section class="lesson" aria-label="What the first discharge teaches">
  {#if taken}
    <p><b>Taken:</b> {every(taken)}.</p>
    <button type="button" class="for-keeper btn btn-outline btn-primary self-start" onclick={() => change('undo')}
      >Undo</button
    >
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
      <button type="button" class="for-keeper btn btn-primary self-start" onclick={() => change('take')}
        >Use this interval</button
      >
    {/if}
  {/if}
  <ProblemNote problem={act.problem} />
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
