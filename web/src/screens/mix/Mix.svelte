<!-- The dose card: how much of what, readable at arm's length. -->
<script lang="ts">
  import { ask, client, newId, type BenchMachine, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import Cautions from '../../ui/Cautions.svelte'
  import DoseWords from '../../ui/DoseWords.svelte'
  import { money, month, round, worked } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import { askBench } from '../../data/state.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { navigate, p, route } from '../../router'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'
  import TubForm from './TubForm.svelte'
  import TubPicture from '../../ui/TubPicture.svelte'

  let machines = $state<BenchMachine[]>([])
  const page = new Resource<Schemas['Mix'] | undefined>()
  const mix = $derived(page.value)
  const chosen = $derived((route.params as { id?: string }).id)

  const load = (of?: string) =>
    page.ask(async (signal) => {
      machines = (await askBench()).machines
      // without a choice: the machine whose wash presses most
      const id =
        of ??
        (machines.find((m) => m.wash && m.next?.state === 'overdue') ?? machines.find((m) => m.wash) ?? machines[0])
          ?.id
      if (!id) return undefined
      return ask(client.GET('/machines/{machine_id}/mix', { params: { path: { machine_id: id } }, signal }))
    })
  $effect(() => {
    document.title = 'Mix · Fresh Anvil'
    void load(chosen)
  })
  const groupNumbers = $derived(Array.from({ length: mix?.groups ?? 0 }, (_, g) => g + 1))
  const foam = (foams: boolean) =>
    page.change(
      async () => {
        const params = { path: { tub_id: mix!.tub!.id } }
        await ask(client.POST('/tubs/{tub_id}/foam-tests', { params, body: { id: newId(), foams } }))
      },
      () => load(mix?.machine_id),
    )
  // this machine's dose comes out of that tub
  const same = $derived(!mix?.dose || !mix.tub || mix.dose.form === mix.tub.form)
  const stale = $derived(mix?.freshness?.verdict === 'stop')
</script>

<div class="px-8"><ProblemNote problem={page.problem} /></div>
{#if machines.length === 0 && !page.problem}
  <div class="p-8">
    <p class="text-[20px]">No machine is kept yet.</p>
    <a class="for-keeper btn btn-primary mt-4" href={p('/machines/new')}>Answer the five questions</a>
  </div>
{/if}
{#if mix}
  {@const m = mix}
  <div class="sheet">
    <section class="card">
      <label class="num-voice text-ink-2 text-[20px]">
        <span class="sr-only">Machine</span>
        <select
          class="cursor-pointer"
          value={m.machine_id}
          onchange={(e) => navigate('/machines/:id/mix', { params: { id: e.currentTarget.value } })}
        >
          {#each machines as x (x.id)}<option value={x.id}>{x.name}</option>{/each}
        </select>
      </label>
      {#if m.dose}
        <h1 class="huge-voice amount">
          {#if stale}<s><DoseWords dose={m.dose} /></s>{:else}<DoseWords dose={m.dose} />{/if}
        </h1>
        <p class="head-voice text-[clamp(28px,4vw,48px)]">
          {#if m.groups === 1}<Num worked={m.dose.mass} /> in the blind{:else}{#each groupNumbers as g (g)}<Num
                worked={m.dose.mass}
                text={m.dose.form === 'tablets' ? `${m.dose.tablets}` : worked(m.dose.mass)}
              /> in group {g}{g < m.groups ? ', ' : '; '}{/each}<Num worked={m.in_all!} /> in all{/if}
        </p>
        <div class="pictures">
          {#if m.dose.form === 'powder' && !m.dose.pinch}
            {#each Array.from({ length: m.groups }, (_, g) => g) as g (g)}<SpoonPicture
                spoon={m.dose.spoon}
                height={m.groups > 3 ? 170 : 250}
              />{/each}
          {/if}
          {#if m.outlook}
            {@const o = m.outlook}
            <div class="flex items-end gap-0">
              <TubPicture share={o.full_share} />
              <div class="pb-2">
                <div class="num-voice text-act text-[24px]">
                  <Num worked={o.left} text="{worked(o.left)} left" />
                </div>
                <div>
                  {#if same}<Num worked={o.washes} text="{round(o.washes.value)} washes" />{:else}other machines use
                    it{/if}{#if o.days && o.empty_at},
                    <Num worked={o.days} text="to {month(o.empty_at, m.zone)}" />{/if}
                </div>
                {#if o.price && same}<div><Num worked={o.price} text={money(o.price.value)} /> a wash</div>{/if}
              </div>
            </div>
          {/if}
        </div>
      {:else}
        <div class="caution">
          <h1 class="head-voice text-stop text-[clamp(40px,6vw,76px)]">{m.gate.title}</h1>
          {#each m.gate.because as r}<p class="mt-2">{r.text}</p>{/each}
        </div>
      {/if}
    </section>
    <aside class="torn notes">
      {#if m.dose}
        <div>
          <h2 class="label-voice">Why this much</h2>
          {#each m.why as r}<p class="mt-1">{r.text}</p>{/each}
        </div>
      {/if}
      {#if !same}
        <p class="caution">
          The method chosen for this machine takes tablets; the tub that is kept here holds powder. <a
            class="underline underline-offset-4"
            href={p('/machines/:id/schools', { params: { id: m.machine_id } })}>Choose another</a
          >
        </p>
      {/if}
      {#if m.freshness}
        {@const f = m.freshness}
        <div>
          <h2 class="label-voice">{f.because[0]?.text}</h2>
          <p class="head-voice mt-1 text-[24px]" class:text-stop={f.verdict === 'stop'}>{f.title}</p>
          {#each f.because.slice(1) as r}<p class="mt-1">{r.text}</p>{/each}
          {#each f.next ?? [] as n}<p class="mt-1">{n}</p>{/each}
          {#if f.verdict !== 'fine'}
            <div class="for-closer mt-3 flex flex-wrap gap-3">
              <button type="button" class="btn btn-outline btn-primary" onclick={() => foam(true)}>It foams</button>
              <button type="button" class="btn btn-outline btn-primary" onclick={() => foam(false)}
                >It does not</button
              >
            </div>
          {/if}
        </div>
      {/if}
      <div class="grid gap-3"><Cautions list={m.cautions} /></div>
      <div class="break-inside-avoid">
        <h2 class="label-voice">Soak bath</h2>
        <p class="head-voice mt-1 text-[26px]"><DoseWords dose={m.soak} />, <Num worked={m.soak.mass} /> a basin</p>
        {#each m.soak_why as r}<p class="mt-1 text-[15px]">{r.text}</p>{/each}
      </div>
      <details class="for-keeper" open={!m.tub}>
        <summary class="cursor-pointer py-1"
          ><b>{m.tub ? 'Weighed it, or a new tub?' : 'Say what is in the tub'}</b></summary
        >
        <div class="mt-3"><TubForm tub={m.tub} onsaid={() => load(m.machine_id)} /></div>
      </details>
      <button
        type="button"
        class="btn btn-outline btn-primary justify-self-start print:hidden"
        onclick={() => print()}>Print the card</button
      >
    </aside>
  </div>
{/if}

<style>
  .sheet {
    display: grid;
    grid-template-columns: 1fr 420px;
    flex-grow: 1;
  }
  .card {
    padding: 24px 32px;
    display: flex;
    flex-direction: column;
    gap: 14px;
  }
  .amount {
    font-size: clamp(110px, 19vw, 240px);
    line-height: 0.95;
    margin-top: 10px;
  }
  .pictures {
    display: flex;
    flex-wrap: wrap;
    align-items: flex-end;
    gap: 24px 52px;
    padding-top: 14px;
  }
  .notes {
    padding: 28px 32px 40px;
    display: grid;
    gap: 26px;
    align-content: start;
  }
  @media (max-width: 1000px) {
    .sheet {
      grid-template-columns: 1fr;
    }
    .card,
    .notes {
      padding: 20px;
    }
  }
  @media print {
    .amount {
      margin-top: 0;
      font-size: 96px;
    }
    .card,
    .notes {
      gap: 12px;
      padding: 0 0 12px;
    }
  }
</style>
