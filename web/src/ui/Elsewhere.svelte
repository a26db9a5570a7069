<!-- A page asked for a machine that is not here, or for none: the machines there are, each leading to the same page of
     its own. -->
<script lang="ts">
  import type { BenchMachine } from '../data/api'
  import { askBench } from '../data/state.svelte'
  import { p } from '../router'

  let { title, text, to }: { title: string; text?: string; to?: (id: string) => string } = $props()
  let machines = $state<BenchMachine[]>()
  askBench().then(
    (bench) => (machines = bench.machines),
    () => (machines = []), // the way to the bench stands all the same
  )
  // the page of this kind, of another machine: what follows the id may be of the machine alone
  const same = (id: string) => {
    const [, , , page = ''] = location.pathname.split('/')
    return `/machines/${id}${page && page !== 'runs' ? `/${page}` : ''}`
  }
</script>

<div class="grid max-w-2xl gap-3 py-4" role="status">
  <h1 class="head-voice text-[38px]">{title}</h1>
  {#if text}<p>{text}</p>{/if}
  {#if machines && machines.length > 0}
    <h2 class="label-voice">The machines here</h2>
    <ul class="border-ink border-t-2">
      {#each machines as m (m.id)}<li class="border-rule border-b">
          <a class="inline-flex min-h-11 items-center py-1 underline underline-offset-4" href={(to ?? same)(m.id)}
            >{[m.name, m.owner, m.place].filter(Boolean).join(', ')}</a
          >
        </li>{/each}
    </ul>
  {/if}
  <p><a class="btn btn-primary" href={p('/')}>Go to the bench</a></p>
</div>
