<!-- The close as a card for the wall, where no screen is: what is done each night and how, with a box a night of the
     week. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { p, route } from '../../router'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  const page = new Resource<Schemas['Closing']>()
  const c = $derived(page.value)
  const id = $derived((route.params as { id?: string }).id ?? '')
  const nights = ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su']
  $effect(() => {
    const params = { path: { machine_id: id } }
    void page
      .ask((signal) => ask(client.GET('/machines/{machine_id}/close', { params, signal })))
      .then((got) => got && (document.title = `For the wall, ${got.machine_name} · Fresh Anvil`))
  })
</script>

<div class="wall">
  <ProblemNote problem={page.problem} />
  {#if c}
    <p class="label-voice">
      <a class="underline underline-offset-4" href={p('/machines/:id/close', { params: { id } })}
        >{c.machine_name}</a
      >
    </p>
    <h1 class="huge-voice text-[clamp(44px,7vw,80px)]">Before you go</h1>
    <button type="button" class="btn btn-primary mt-3 print:hidden" onclick={() => print()}
      >Print it for the wall</button
    >
    <ol>
      {#each c.every_night as j, n (j.task)}
        <li>
          <span class="huge-voice nr" aria-hidden="true">{n + 1}</span>
          <div>
            <h2 class="head-voice text-[26px]">{j.title}</h2>
            <p>{j.how || 'Dose and steps stand on the dose card; or begin it on a screen, which leads it.'}</p>
          </div>
          <span class="nights" aria-label="A box a night">
            {#each nights as name (name)}<span>{name}<i></i></span>{/each}
          </span>
        </li>
      {/each}
    </ol>
    {#if c.after_drink}<p class="mt-4"><b>After each drink:</b> {c.after_drink.how}</p>{/if}
    <p class="mt-2">What comes round less often stands on the bench, and on the machine’s own card.</p>
    {#if c.pulses}<p class="caution mt-5">
        <b>Nothing came out at the drain after a pulse?</b> Switch off, do not open the handle, say so. Detergent that
        is left in overnight blocks the group: no drinks from it, tell who opens.
      </p>{/if}
  {/if}
</div>

<style>
  @page {
    size: A4;
    margin: 12mm;
  }
  .wall {
    max-width: 1000px;
    padding: 24px 32px 48px;
  }
  ol {
    margin-top: 18px;
    border-top: 3px solid var(--color-ink);
  }
  li {
    display: grid;
    grid-template-columns: 56px minmax(0, 1fr) auto;
    gap: 4px 18px;
    padding: 12px 0;
    border-bottom: 1px solid var(--color-rule);
    break-inside: avoid;
  }
  .nr {
    font-size: 52px;
  }
  .nights {
    display: flex;
    gap: 6px;
    align-items: start;
    padding-top: 4px;
  }
  .nights > span {
    display: grid;
    justify-items: center;
    font-stretch: 75%;
    font-size: 14px;
  }
  i {
    display: block;
    width: 24px;
    height: 24px;
    border: 2px solid var(--color-ink);
  }
  @media (max-width: 700px) {
    .wall {
      padding: 20px;
    }
    li {
      grid-template-columns: 44px minmax(0, 1fr);
    }
    .nights {
      grid-column: 2;
    }
  }
</style>
