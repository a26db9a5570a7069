<!-- What the answers come to: the three dates and both doses; everything else is folded. -->
<script lang="ts">
  import type { MachinePlan } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import DoseWords from '../../ui/DoseWords.svelte'
  import Num from '../../ui/Num.svelte'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'
  import { amount, every, listed, poured, round, worked } from '../../ui/format'
  import PlanTicket from '../shared/PlanTicket.svelte'

  let { plan, zone }: { plan: MachinePlan; zone: string } = $props()
  const dose = $derived(plan.first_dose)
  const descaler = $derived(dose?.product?.toLowerCase())
</script>

<h2 class="sr-only">The plan</h2>
{#each plan.first ?? [] as f (f.title)}
  <section class="job">
    <h3 class="label-voice">{f.title}</h3>
    {#if f.due}
      <p class="when head-voice">
        {#if f.due.state === 'unrecorded'}Now: nothing is on record{:else if f.due.now}Now{:else if f.due.daily}Every
          day, after the last drink{:else}<Around due={f.due} {zone} />{/if}
      </p>
      {@const often = plan.intervals.find((x) => x.task === f.due?.task)}
      {#if often && !often.daily}<p class="mt-1 text-[15px]">{every(often)}.</p>{/if}
      {#if f.why}<p class="mt-1 text-[15px]">{f.why}</p>{/if}
    {:else}
      <p class="when head-voice">{f.none?.text}</p>
    {/if}
    {#if f.doses === 'detergent' && plan.wash?.dose}
      <div class="dose">
        <b class="num-voice"><DoseWords dose={plan.wash.dose} /></b><SpoonPicture
          spoon={plan.wash.dose.spoon}
          height={44}
        />
        <span
          ><Num worked={plan.wash.dose.mass} text={worked(plan.wash.dose.mass)} /> of detergent a group, <Num
            worked={plan.wash.minutes}
            text="{round(plan.wash.minutes.value)} minutes"
          /></span
        >
      </div>
    {/if}
    {#if f.doses === 'acid' && dose?.measure && dose.mixed}
      <div class="dose">
        <b class="num-voice"
          ><Num worked={dose.measure} text={amount(Math.round(dose.measure.value), dose.measure.unit)} /></b
        >
        <span
          >of {descaler} in <Num worked={dose.mixed} text={poured(dose.mixed.value)} /> of water, when it is due</span
        >
      </div>
    {:else if f.doses === 'acid' && dose?.none && f.due}
      <p class="mt-1">
        <b>No dose is shown:</b>
        {dose.none}{#if dose.asks.length > 0}
          Said on the machine's page, {listed(dose.asks)} may change that.{/if}
      </p>
    {/if}
  </section>
{/each}
{#if !plan.hardness.known}<p class="mt-4 text-[15px]">
    <b>The hardness is not known:</b> it is taken as {plan.hardness.usgs.likely}, so the dates may move a lot. A
    strip tells in a minute.
  </p>{/if}
<details class="border-rule mt-4 border-t pt-2">
  <summary class="min-h-11 cursor-pointer py-2"><b>Everything it rests on</b></summary>
  <PlanTicket {plan} {zone} fresh />
</details>

<style>
  .job {
    padding: 12px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .when {
    font-size: clamp(24px, 3vw, 30px);
  }
  .dose {
    display: flex;
    align-items: center;
    gap: 4px 12px;
    margin-top: 6px;
  }
  .dose b {
    flex: none;
    font-size: 30px;
  }
</style>
