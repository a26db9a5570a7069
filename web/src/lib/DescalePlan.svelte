<!-- The descale as it would be led: which way, what is joined, how long, and the press that begins it. -->
<script lang="ts">
  import type { Schemas } from './api'
  import { amount, round, source } from './format'
  import Num from './Num.svelte'
  import { navigate } from './router'
  import StartWash from './StartWash.svelte'

  let { card, product, strength, program = $bindable(), renew = $bindable(), wash = $bindable() }: { card: Schemas['MachineDescale']; product: string; strength: number | undefined; program: string | undefined; renew: boolean; wash: boolean } = $props()
  const plan = $derived(card.plan)
  const chosen = $derived(plan?.program ?? program ?? card.programs[0]?.id)
  const more = $derived({ program: chosen as Schemas['NewRun']['program'], product, renew, wash, ...(strength && { strength_g_l: strength }) })
  const hours = (m: number) => (m >= 90 ? `${Math.floor(m / 60)} h ${String(Math.round(m % 60)).padStart(2, '0')}` : `${round(m)} min`)
  const renewals = { filter_change: 'with a new filter', regenerate: 'with the softener in salt' }
</script>

<section class="plan">
  <div>
    <h2 class="head-voice text-[24px]">How it goes</h2>
    {#each card.programs as q (q.id)}
      <label class="way" class:picked={q.id === chosen}>
        <input type="radio" name="program" value={q.id} checked={q.id === chosen} onchange={() => (program = q.id)} />
        <span><b class="num-voice text-[21px]">{q.title}</b><br />{q.pattern}. <span class="text-ink-2">{q.why} {source(q.source)}.</span></span>
      </label>
    {/each}
    <div class="mt-3 flex flex-wrap gap-x-8">
      {#if card.renews}<label class="tick"><input type="checkbox" bind:checked={renew} /> {renewals[card.renews]}</label>{/if}
      {#if card.washable}<label class="tick"><input type="checkbox" bind:checked={wash} /> and a detergent wash after it</label>{/if}
    </div>
  </div>
  <div>
    {#if card.unready}
      <div class="caution"><h3 class="head-voice text-stop text-[26px]">{card.unready.title}</h3>
        {#each card.unready.because as r (r.text)}<p>{r.text}</p>{/each}
        {#each card.unready.next ?? [] as n (n)}<p><b>{n}</b></p>{/each}</div>
    {:else if plan}
      <p class="huge-voice text-[72px]"><Num worked={plan.minutes} text={hours(plan.minutes.value)} /></p>
      <p class="mt-3 text-[19px]">{hours(plan.hands_min)} of it by hand, the rest waits. {#if plan.solution && plan.measure}<b><Num worked={plan.measure} text={plan.measure.unit === 'sachets' ? `${round(plan.measure.value)} sachets` : amount(plan.measure.value, plan.measure.unit)} /></b> in <Num worked={plan.solution} text={amount(plan.solution.value, 'L')} />, with what stays in the tank.{/if} The tank is filled {plan.tank_fills} times, what catches the water emptied {plan.jugs} times; acid stands {round(plan.contact_most_min)} minutes at most.</p>
      {#each plan.findings as f (f.title)}<p class="mt-2"><b>{f.title}.</b> {f.because.map((r) => r.text).join(' ')} {f.next?.join(' ') ?? ''}</p>{/each}
      <div class="mt-4 flex flex-wrap gap-3">
        {#if card.open_run}
          {@const run = card.open_run}
          <button type="button" class="btn btn-primary" onclick={() => navigate('/machines/:id/runs/:run', { params: { id: card.machine_id, run } })}>Go back to the run</button>
        {:else}
          <StartWash machine={card.machine_id} task="descale" {more} text="Start the descale" />
          <StartWash machine={card.machine_id} task="descale" {more} practice line text="Practise" />
        {/if}
      </div>
      <details class="mt-4">
        <summary class="min-h-11 cursor-pointer py-2"><b>The {plan.lines.length} steps</b></summary>
        <ol class="steps">{#each plan.lines as l (l.id)}<li>{l.title}</li>{/each}</ol>
      </details>
    {/if}
  </div>
</section>

<style>
  .plan {
    display: grid;
    grid-template-columns: minmax(0, 1.25fr) minmax(0, 1fr);
    gap: 20px 48px;
    margin-top: 26px;
    padding-top: 12px;
    border-top: 2px solid var(--color-ink);
  }
  .way {
    display: flex;
    gap: 14px;
    margin-top: 8px;
    padding: 10px 16px;
    border: 2px solid var(--color-rule);
    cursor: pointer;
  }
  .way.picked {
    border-color: var(--color-ink);
    background: var(--color-slip);
  }
  .way input,
  .tick input {
    flex: none;
    width: 22px;
    height: 22px;
    margin-top: 4px;
    accent-color: var(--color-act);
  }
  .tick {
    display: inline-flex;
    align-items: flex-start;
    gap: 10px;
    min-height: 44px;
    font-weight: 600;
  }
  .steps {
    columns: 2;
    padding-left: 1.6em;
    list-style: decimal;
    font-size: 15px;
  }
  @media (max-width: 1000px) {
    .plan {
      grid-template-columns: minmax(0, 1fr);
    }
    .steps {
      columns: 1;
    }
  }
</style>
