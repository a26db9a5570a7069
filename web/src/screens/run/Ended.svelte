<!-- How a run ended: what is written down, what stays in, and what comes next. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import { groupOf, inWords, worked } from '../../ui/format'
  import Lesson from '../shared/Lesson.svelte'
  import SeenList from '../shared/SeenList.svelte'
  import StartWash from '../shared/StartWash.svelte'
  import DescaleEnd from './DescaleEnd.svelte'
  import type { Stage } from './stage.svelte'

  let { s }: { s: Stage } = $props()
  const run = $derived(s.run!)
  const dose = (of: NonNullable<Schemas['Run']['wash']['dose']>) =>
    of.form === 'tablets' ? 'one tablet' : worked(of.mass)
  // of a group, when its next wash comes; the same task of a whole machine is said with what was written down
  const comes = $derived(
    run.next?.days &&
      run.next.state !== 'overdue' &&
      groupOf(run.next.part) > 0 &&
      !run.descale &&
      run.groups.length > 0,
  )
  const again = $derived(run.next?.days && run.next.task === run.task && !run.practice ? run.next : undefined)
</script>

<div class="middle">
  {#if run.note && run.outcome !== 'done'}
    <h1 class="huge-voice big" class:text-stop={run.outcome === 'stopped_unsafe'}>
      {run.outcome === 'stopped_unsafe' ? 'Stopped, unsafe' : 'Stopped.'}
    </h1>
    <p class="say">{run.note}</p>
    {#if run.inside.any}<p class="say"><b>{run.inside.text}.</b></p>{/if}
  {:else if run.outcome === 'done'}
    {#if run.note}<p class="say">{run.note}</p>{/if}
    <h1 class="huge-voice big">{run.practice ? 'Practised.' : run.over}</h1>
    {#if run.descale}
      <DescaleEnd {run} />
    {:else if run.groups.length === 0}
      <p class="say">
        {run.practice ? 'Nothing is written down.' : 'Written down.'}
        {#if again}The next comes <Around due={again} zone={run.zone} />.{/if}
      </p>
    {:else if run.practice}
      {#each run.groups as g (g.part)}<p class="say">
          {s.several ? `Group ${groupOf(g.part)}: ` : ''}{g.soapy_pulses} pulses with detergent, {g.rinsed} of water.
        </p>{/each}
      <p class="say">Nothing is written down.</p>
    {:else if s.several}
      {#each run.groups as g (g.part)}<p class="say">
          Group {groupOf(g.part)}: {g.soapy_pulses > 0 ? `${g.soapy_pulses} pulses with detergent, ` : ''}{g.rinsed} of
          water{g.cups.length > 0 ? ', cup clear' : ''}.
        </p>{/each}
      <p class="say">Written down for each group.</p>
    {:else if run.soapy_pulses === 0 && run.cups.length === 0}
      <p class="say">Written down: {run.detergent.rinsed} pulses of water.</p>
    {:else}
      <p class="say">
        Written down: {run.wash.dose ? `${dose(run.wash.dose)}, ${run.soapy_pulses} pulses with it, ` : ''}{run
          .detergent.rinsed} of water, cup clear.
      </p>
    {/if}
    {#if run.after && !run.practice && !run.descale}<p class="say">{run.after}</p>{/if}
    {#if run.seen?.length}<SeenList list={run.seen} groups={s.several ? 2 : 1} machine={run.machine_id} />{/if}
    {#if run.next && comes}
      {@const next = run.next}
      <p class="say">Next: {next.title.toLowerCase()}, <Around due={next} zone={run.zone} />.</p>
    {/if}
    {#if run.lesson}<Lesson machine={run.machine_id} lesson={run.lesson} />{/if}
    {#if run.then}
      <StartWash
        machine={run.machine_id}
        parts={[run.then.part]}
        text="Go on with group {groupOf(run.then.part)}"
      />
    {/if}
  {:else if run.practice}
    <h1 class="huge-voice big">Stopped.</h1>
    <p class="say">
      Practice: nothing is written down. With real powder, the group would now be marked until it is rinsed.
    </p>
  {:else if run.outcome === 'stopped'}
    <h1 class="huge-voice big">Stopped.</h1>
    {#if run.descale}
      <p class="say">
        {run.inside.any ? '' : 'No acid is in. '}Put the filter back in, and see that every drain is shut.
      </p>
      <DescaleEnd {run} />
    {:else if s.several}
      {#each run.groups as g (g.part)}<p class="say">
          Group {groupOf(g.part)}: {g.outcome === 'done'
            ? 'done, and written down'
            : g.rinsed > 0
              ? 'rinsed out; it does not count as done'
              : 'no detergent went in; it does not count as done'}.
        </p>{/each}
    {:else}
      <p class="say">
        {run.groups.length === 0
          ? ''
          : run.detergent.rinsed > 0
            ? 'The detergent is rinsed out. '
            : 'No detergent went in. '}Nothing is counted as done.{#if run.groups.length === 0}{' '}<b
            >Do not switch it on before every part is back, taps and drains shut, the supply open.</b
          >{/if}
      </p>
    {/if}
  {:else}
    {@const left = run.groups.filter((g) => g.detergent).map((g) => g.part)}
    {@const shut = run.groups.filter((g) => g.blind > 0).map((g) => g.part)}
    <h1 class="huge-voice big text-stop">Stopped, unsafe</h1>
    {#if run.descale}<DescaleEnd {run} />{/if}
    {#if shut.length > 0}<p class="say">
        <b>The head of {inWords(shut)} may still be under pressure.</b> Machine off, and leave the handle locked until
        it is cold.
      </p>{/if}
    {#if left.length > 0}
      <p class="say">
        <b>Detergent is in {inWords(left)}.</b> No drinks from there until it is rinsed, or a technician has seen to it.
        Left in, it dries hard and can freeze the valve.
      </p>{/if}
  {/if}
</div>
