<!-- All of tonight that is led, in one go. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { clock, inHours } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import StartWash from '../shared/StartWash.svelte'

  let { c, t }: { c: Schemas['Closing']; t: NonNullable<Schemas['Closing']['together']> } = $props()
</script>

<div class="in-one">
  <p>
    <b>{t.titles.map((x, i) => (i > 0 ? x.charAt(0).toLowerCase() + x.slice(1) : x)).join(', ')}: led in one go.</b>
    <Num worked={t.minutes} text={inHours(Math.round(t.minutes.value) * 60)} />, of it {inHours(
      Math.round(t.hands_min) * 60,
    )} with your hands; begun now, done at {clock(t.end_at, c.zone)}. Called away, the run waits and says until
    when.
  </p>
  {#key JSON.stringify(t.tasks)}<StartWash
      machine={c.machine_id}
      parts={t.tasks[0]!.parts}
      task={t.tasks[0]!.task as Schemas['NewRun']['task']}
      more={{ with: t.tasks.slice(1) }}
      text="Start the close"
    />{/key}
</div>

<style>
  .in-one {
    display: flex;
    flex-wrap: wrap;
    gap: 10px 24px;
    align-items: center;
    padding: 12px 0 14px;
    border-bottom: 1px solid var(--color-rule);
  }
  .in-one p {
    flex: 1 1 320px;
  }
</style>
