<!-- One of tonight's jobs: what, how, and its tick with who and when. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { clock } from '../../ui/format'
  import StartWash from '../shared/StartWash.svelte'

  let {
    c,
    j,
    n,
    bar,
    ontick,
    onuntick,
  }: {
    c: Schemas['Closing']
    j: Schemas['CloseJob']
    n: number
    bar: boolean
    ontick: () => void
    onuntick: () => void
  } = $props()
</script>

<li class="job" class:bar class:done={j.done_at}>
  <span class="nr num-voice" aria-hidden="true">{n + 1}</span>
  <div class="what">
    <h2 class="head-voice">
      {j.title}{#if j.due && !j.done_at}<span class="due">due</span>{/if}
    </h2>
    {#if j.done_at}<p class="label-voice">{clock(j.done_at, c.zone)}{j.by ? `, ${j.by}` : ''}</p>
    {:else}<p class="how">{j.how || j.because.text}</p>{/if}
  </div>
  <div class="acts">
    {#if j.done_at}
      <svg viewBox="0 0 32 32" width="40" height="40" role="img" aria-label="done"
        ><path d="M5 17 L13 25 L28 6" fill="none" stroke="currentColor" stroke-width="5" /></svg
      >
      {#if j.care_id}<button type="button" class="for-closer minor" onclick={onuntick}
          >Undo<span class="sr-only">: {j.title}</span></button
        >{/if}
    {:else}
      {#if j.leads && !c.open_run}<StartWash
          machine={c.machine_id}
          parts={j.parts}
          task={j.method ? 'wash' : (j.task as Schemas['NewRun']['task'])}
          method={j.method as Schemas['NewRun']['method']}
          text={j.tick ? 'Lead me' : 'Start'}
          line={j.tick || c.together !== undefined}
        />{/if}
      {#if j.tick}<button type="button" class="for-closer tall" onclick={ontick}
          >Done<span class="sr-only">: {j.title}</span></button
        >{/if}
    {/if}
  </div>
</li>

<style>
  .job {
    display: grid;
    grid-template-columns: 44px 1fr auto;
    gap: 16px;
    align-items: center;
    min-height: 84px;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .nr {
    font-size: 34px;
    color: var(--color-ink-2);
  }
  .job h2 {
    font-size: clamp(26px, 3.2vw, 38px);
    line-height: 1.05;
  }
  .how {
    font-size: 16px;
    line-height: 1.25;
  }
  .due {
    margin-left: 12px;
    padding: 0 8px;
    background: var(--color-act);
    color: var(--color-paper);
    font-size: 0.6em;
    vertical-align: middle;
  }
  .done h2 {
    font-weight: 500;
    color: var(--color-ink-2);
  }
  .done svg {
    color: var(--color-done);
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    justify-content: end;
    align-items: center;
    gap: 10px;
  }
  .tall {
    min-height: 64px;
    min-width: 120px;
    border: 2px solid var(--color-ink);
    padding: 6px 18px;
    font-size: 24px;
    font-weight: 700;
    font-stretch: 78%;
    cursor: pointer;
  }
  .acts :global(.btn) {
    min-height: 64px;
    font-size: 22px;
  }
  .bar .how {
    display: none;
  }
  .job.bar {
    min-height: 108px;
  }
  .job.bar h2 {
    font-size: clamp(30px, 4vw, 46px);
  }
  @media (max-width: 600px) {
    .job {
      grid-template-columns: 30px 1fr;
    }
    .acts {
      grid-column: 2;
      justify-content: start;
    }
    .nr {
      font-size: 24px;
    }
  }
</style>
