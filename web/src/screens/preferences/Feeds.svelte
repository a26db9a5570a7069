<!-- Dates in the calendar that somebody looks at anyway: each feed by its secret address, changed or ended. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { me } from '../../data/me.svelte'
  import { Act, Resource } from '../../data/resource.svelte'
  import { askBench } from '../../data/state.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  const page = new Resource<Schemas['Feeds']>()
  const act = new Act()
  let machines = $state<Schemas['BenchMachine'][]>([])
  let of = $state('bench')
  let copied = $state('')
  const owners = $derived([...new Set(machines.map((m) => m.owner).filter((o) => !!o))])
  const feeds = $derived(page.value?.feeds ?? [])
  const address = (f: Schemas['Feed']) => location.origin + f.path

  $effect(() => {
    void page.ask((signal) => ask(client.GET('/feeds', { signal })))
    void askBench().then((bench) => (machines = bench.machines))
  })
  const open = (of: Schemas['FeedOf'], key: string) =>
    act.try(async () => page.show(await ask(client.PUT('/feeds', { body: { of, key } }))))
  const end = (feed_id: string) =>
    act.try(async () => page.show(await ask(client.DELETE('/feeds/{feed_id}', { params: { path: { feed_id } } }))))
  function add() {
    const [kind, ...rest] = of.split(' ')
    void open(kind as Schemas['FeedOf'], rest.join(' '))
  }
  async function copy(f: Schemas['Feed']) {
    try {
      await navigator.clipboard.writeText(address(f))
      copied = f.id
    } catch {
      copied = '' // it stands there to be selected by hand
    }
  }
</script>

<h2 class="head-voice text-[24px]">Dates in your calendar</h2>
<p class="max-w-2xl">
  A calendar program that subscribes to an address shows each sitting on its day, rings at nine, and takes away what
  was done. Whoever knows an address reads those dates without a login, and nothing else.
  {#if me.value && !me.value.login}
    This server answers its own machine only, so the calendar program has to be on it.{/if}
</p>
<ul class="mt-1">
  {#each feeds as f (f.id)}
    <li class="border-rule border-b py-2">
      <b>{f.title}</b>
      <input class="address" readonly value={address(f)} aria-label="Address of {f.title}" />
      <span class="flex flex-wrap gap-x-6">
        <button type="button" class="linked" onclick={() => copy(f)}
          >{copied === f.id ? 'Copied' : 'Copy the address'}</button
        >
        <button type="button" class="linked" onclick={() => open(f.of, f.key)}>Change it: the old one ends</button>
        <button type="button" class="linked" onclick={() => end(f.id)}>End it</button>
      </span>
    </li>
  {/each}
</ul>
<form
  class="mt-3 flex flex-wrap items-end gap-3"
  onsubmit={(e) => {
    e.preventDefault()
    add()
  }}
>
  <label class="field"
    >Dates of<select bind:value={of}>
      <option value="bench">all machines</option>
      {#each owners as o (o)}<option value="owner {o}">machines of {o}</option>{/each}
      {#each machines as m (m.id)}<option value="machine {m.id}">{m.name}</option>{/each}
    </select></label
  >
  <button class="btn btn-outline btn-primary">Make an address</button>
  <a class="inline-block py-3 underline underline-offset-4" href="/api/calendar.ics" download
    >Or a file, as of today</a
  >
</form>
<ProblemNote problem={act.problem ?? page.problem} />

<style>
  .address {
    display: block;
    width: 100%;
    min-height: 44px;
    padding: 4px 10px;
    border: 1.5px solid var(--color-rule);
    font-size: 15px;
  }
</style>
