<!-- What the answers come to: when, how much, and what was taken for granted. -->
<script lang="ts">
  import type { MachinePlan } from '../../data/api'
  import { every, marks, residue, round, worked } from '../../ui/format'
  import Around from '../../ui/Around.svelte'
  import DoseWords from '../../ui/DoseWords.svelte'
  import Hardness from '../../ui/Hardness.svelte'
  import Num from '../../ui/Num.svelte'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'

  let { plan, zone, fresh = false }: { plan: MachinePlan; zone: string; fresh?: boolean } = $props()
  const refused = $derived(plan.gate.verdict === 'refused')
</script>

{#if refused}
  <section class="caution">
    <h2 class="head-voice text-stop text-[34px]">{plan.gate.title}</h2>
    {#each plan.gate.because as r}<p class="mt-2">{r.text}</p>{/each}
    {#each plan.gate.next ?? [] as n}<p class="mt-2"><b>{n}</b></p>{/each}
  </section>
{:else if plan.wash?.dose}
  {@const wash = plan.wash}
  <section>
    <div class="label-voice">Detergent, a group</div>
    <div class="mt-2 flex items-center gap-7">
      <span class="huge-voice text-[92px]"><DoseWords dose={wash.dose!} /></span>
      <SpoonPicture spoon={wash.dose!.spoon} height={120} />
    </div>
    <p class="mt-2">
      <b class="num-voice text-[26px]"><Num worked={wash.dose!.mass} text={worked(wash.dose!.mass)} /></b>,
      <Num worked={wash.minutes} text="{round(wash.minutes.value)} minutes" />, at least <Num
        worked={wash.rinse}
        text="{round(wash.rinse.value)} rinse pulses"
      />{#if wash.residue}, which leave
        <Num worked={wash.residue} text={residue(wash.residue)} /> before the drink you pour away{/if}.
    </p>
    <p class="text-ink-2 mt-1 text-[15px]">{wash.method_name}: {wash.pattern}. {wash.why} {wash.ours ?? ''}</p>
    {#if plan.gate.verdict === 'look'}<p class="caution mt-2">
        <b>{plan.gate.title}.</b>
        {plan.gate.because[0]?.text}
      </p>{/if}
  </section>
{/if}

{#each plan.intervals as interval (interval.task)}
  {@const due = plan.dues.find((d) => d.task === interval.task)}
  <section class="border-rule mt-5 border-t pt-3">
    <div class="label-voice">{interval.title}</div>
    <p class="head-voice text-[24px]">{every(interval)}</p>
    {#if fresh && due?.days && !interval.daily}
      <p class="mt-1">Done today, the next comes <Around {due} {zone} />.</p>
    {/if}
    {#each interval.because as r}<p class="mt-1 text-[15px]">{r.text}</p>{/each}
  </section>
{/each}

<section class="border-rule mt-5 border-t pt-3">
  <div class="label-voice">Water hardness</div>
  <Hardness hardness={plan.hardness} />
  <p class="mt-2 text-[15px]"><b>Descaling:</b> {plan.descaling}</p>
</section>

<details class="border-rule mt-5 border-t pt-3">
  <summary class="cursor-pointer py-1"><b>Assumptions ({plan.assumptions.length})</b></summary>
  <table class="mt-2 w-full text-[15px]">
    <tbody>
      {#each plan.assumptions as a (a.label)}
        <tr class="border-rule border-b"
          ><td class="py-1 pr-3">{a.label}</td><td class="py-1 pr-3 font-bold">{a.value}</td><td
            class="text-ink-2 py-1">{marks[a.source.kind]}</td
          ></tr
        >
      {/each}
    </tbody>
  </table>
</details>
