<!-- How long the descale takes, and the press that begins it. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { lasting, theMachine } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import { navigate } from '../../router'
  import TimeBar from './TimeBar.svelte'
  import StartWash from '../shared/StartWash.svelte'

  let {
    card,
    product,
    strength,
    program,
    renew,
    wash,
    entitled = '',
  }: {
    card: Schemas['MachineDescale']
    product: string
    strength: number | undefined
    program: string | undefined
    renew: boolean
    wash: boolean
    entitled?: string
  } = $props()
  const plan = $derived(card.plan)
  const more = $derived({
    program: (plan?.program ?? program) as Schemas['NewRun']['program'],
    product,
    renew,
    wash,
    ...(entitled && { entitled }),
    ...(strength && { strength_g_l: strength }),
  })
  const times = (n: number) => (n === 1 ? 'once' : `${n} times`)
</script>

{#if card.unready}
  <div class="caution">
    <h2 class="head-voice text-stop text-[26px]">{card.unready.title}</h2>
    {#each card.unready.because as r}<p>{r.text}</p>{/each}
    {#each card.unready.next ?? [] as n}<p><b>{n}</b></p>{/each}
  </div>
{:else if plan}
  <div class="flex flex-wrap items-end gap-x-6 gap-y-3">
    <p class="huge-voice text-[72px]"><Num worked={plan.minutes} text={lasting(plan.minutes.value)} /></p>
    <div class="flex flex-wrap gap-3">
      {#if card.open_run}
        {@const run = card.open_run}
        <button
          type="button"
          class="btn btn-primary"
          onclick={() => navigate('/machines/:id/runs/:run', { params: { id: card.machine_id, run } })}
          >Go back to the run</button
        >
      {:else}
        {#key JSON.stringify(more)}
          <StartWash
            machine={card.machine_id}
            parts={[theMachine]}
            task="descale"
            {more}
            text={plan.solution ? 'Start the descale' : 'Start the rinse'}
          />
          {#if plan.solution}<StartWash
              machine={card.machine_id}
              parts={[theMachine]}
              task="descale"
              {more}
              practice
              line
              text="Practise"
            />{/if}
        {/key}
      {/if}
    </div>
  </div>
  <div class="mt-3"><TimeBar {plan} zone={card.zone} /></div>
  <p class="mt-2">Tank filled {times(plan.tank_fills)}, jug or tray emptied {times(plan.jugs)}.</p>
  {#each plan.findings as f (f.title)}<p class="mt-2">
      <b>{f.title}.</b>
      {f.because.map((r) => r.text).join(' ')}
      {f.next?.join(' ') ?? ''}
    </p>{/each}
{/if}
