<!-- Pair any method with any interval, or own numbers; what it comes to is shown at once. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { every as words, plainly, worked } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { schools, onchosen }: { schools: Schemas['Schools']; onchosen: (s: Schemas['Schools']) => void } = $props()
  type Choice = Schemas['SchoolChoice']
  let method = $state<Choice['method']>('half_teaspoon')
  let every = $state<Choice['every']>('fifty_or_kilo')
  let own = $state<Record<string, number | null>>({
    shots: null,
    coffee_g: null,
    counter: null,
    litres: null,
    days: null,
  })
  // one's own dose and pulses: a field left empty keeps the method's number
  let mine = $state(false)
  let name = $state('')
  let numbers = $state<Record<string, number | null>>({
    grams: null,
    on_s: null,
    off_s: null,
    detergent: null,
    rinse: null,
  })
  const parts: [string, string][] = [
    ['grams', 'Powder, g'],
    ['on_s', 'On, seconds'],
    ['off_s', 'Off, seconds'],
    ['detergent', 'Wash pulses'],
    ['rinse', 'Rinse pulses'],
  ]
  const page = new Resource<Schemas['SchoolRow']>()
  const row = $derived(page.value)
  const fields: [string, string][] = [
    ['shots', 'shots'],
    ['coffee_g', 'g of coffee'],
    ['counter', 'on the counter'],
    ['litres', 'L of water'],
    ['days', 'days'],
  ]
  const body = $derived.by((): Choice => {
    const given = (from: Record<string, number | null>) =>
      Object.fromEntries(Object.entries(from).filter(([, v]) => v !== null && v !== undefined))
    return {
      id: newId(),
      every,
      ...(!schools.by_hand && { method }),
      ...(every === 'own' && { own: given(own) }),
      ...(mine && !schools.by_hand && { numbers: { name, ...given(numbers) } }),
    }
  })
  const path = $derived({ params: { path: { machine_id: schools.machine_id } } })

  $effect(() => {
    const asked = body
    const later = setTimeout(async () => {
      const call = (signal: AbortSignal) =>
        ask(client.POST('/machines/{machine_id}/pairings', { ...path, body: asked, signal }))
      if (!(await page.ask(call)) && page.problem) page.show(undefined)
    }, 150)
    return () => clearTimeout(later)
  })
  const choose = () =>
    page.try(async () => onchosen(await ask(client.POST('/machines/{machine_id}/schools', { ...path, body }))))
</script>

<div class="pair">
  {#if !schools.by_hand}
    <label class="field"
      >Method
      <select bind:value={method}>
        {#each schools.methods.filter((m) => m.id !== 'water_only') as m (m.id)}<option
            value={m.id}
            disabled={m.fits.verdict === 'refused'}>{m.name}</option
          >{/each}
      </select>
    </label>
  {/if}
  <label class="field"
    >How often
    <select bind:value={every}>
      {#each schools.everies as e (e.id)}<option value={e.id}>{e.title}</option>{/each}
      <option value="own">own numbers</option>
    </select>
  </label>
  {#if every === 'own'}
    <div class="own" role="group" aria-label="Own numbers: whichever comes first">
      {#each fields as [field, text] (field)}
        <label><input type="number" step="any" bind:value={own[field]} aria-label={text} /> {text}</label>
      {/each}
    </div>
  {/if}
  {#if !schools.by_hand}
    <div class="mine">
      <label class="tick"><input type="checkbox" bind:checked={mine} /> My own dose and pulses</label>
      {#if mine}
        <label class="field name">Name of your way <input maxlength="40" bind:value={name} /></label>
        {#each parts as [field, text] (field)}
          <label class="field">{text} <input type="number" step="any" bind:value={numbers[field]} /></label>
        {/each}
        <p class="text-ink-2 text-[15px]">
          Leave a field empty to keep the method's own number. More rinse pulses are added where the residue needs
          them.
        </p>
      {/if}
    </div>
  {/if}
  <div class="comes" aria-live="polite">
    {#if row?.days}
      <p class="head-voice text-[24px]">{words(row.interval)}</p>
      {#if mine && row.pattern}<p><b>{row.method_name}</b>: {row.pattern}.</p>{/if}
      <p>
        Here: every <b><Num worked={row.days} /></b>, <Num
          worked={row.shots!}
          text="{plainly(row.shots!)} shots"
        />;
        <b><Num worked={row.times!} text={plainly(row.times!)} /></b>
        a year, <Num worked={row.grams!} text={worked(row.grams!)} />, <Num
          worked={row.minutes!}
          text="{plainly(row.minutes!)} min"
        />.
      </p>
      {#if row.fits.verdict === 'look'}<p class="caution mt-2">
          {#each row.fits.because as r}{r.text}
          {/each}
        </p>{/if}
      <button type="button" class="for-keeper btn btn-outline btn-primary mt-3" onclick={choose}
        >Choose this pairing</button
      >
    {:else if row}
      <p class="caution"><b>{row.fits.title}.</b> {row.fits.next?.[0] ?? ''}</p>
    {/if}
    <ProblemNote problem={page.problem} />
  </div>
</div>

<style>
  .pair {
    display: grid;
    grid-template-columns: 280px 280px 1fr;
    gap: 14px 28px;
    align-items: start;
  }
  .own {
    grid-column: 1 / 3;
    display: flex;
    flex-wrap: wrap;
    gap: 8px 18px;
  }
  .own input {
    width: 96px;
  }
  .mine {
    grid-column: 1 / 3;
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(104px, 1fr));
    gap: 10px 14px;
  }
  .mine label input {
    min-width: 0;
    width: 100%;
  }
  .mine .name,
  .mine .tick,
  .mine p {
    grid-column: 1 / -1;
  }
  .comes {
    grid-column: 3;
    grid-row: 1 / span 2;
  }
  @media (max-width: 1000px) {
    .pair {
      grid-template-columns: 1fr;
    }
    .own,
    .mine,
    .comes {
      grid-column: 1;
      grid-row: auto;
    }
  }
</style>
