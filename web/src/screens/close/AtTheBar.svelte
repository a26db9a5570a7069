<!-- Where a device that is nobody's begins: the close list of the machine that it stands at. Asked once where there are
     several, and kept on the device. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { me } from '../../data/me.svelte'
  import { Resource } from '../../data/resource.svelte'
  import { askBench } from '../../data/state.svelte'
  import { navigate } from '../../router'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  const page = new Resource<Schemas['Bench']>()
  const key = 'freshanvil.bar'
  const choosing = location.search.includes('choose')

  async function load() {
    document.title = 'At the bar · Fresh Anvil'
    const got = await page.ask(() => askBench(true))
    if (!got || choosing) return
    const kept = read()
    const here =
      got.machines.find((m) => m.id === kept) ?? (got.machines.length === 1 ? got.machines[0] : undefined)
    if (here) void open(here.id, true)
  }
  void load()
  function read(): string {
    try {
      return localStorage.getItem(key) ?? ''
    } catch {
      return ''
    }
  }
  async function open(id: string, replace = false) {
    try {
      localStorage.setItem(key, id)
    } catch {
      // it is asked again
    }
    await navigate('/machines/:id/bar', { params: { id }, replace })
  }
</script>

<div class="grid max-w-2xl gap-3 p-5 md:p-10">
  <p class="label-voice">{me.value?.name ?? ''}</p>
  <h1 class="huge-voice text-[clamp(40px,6vw,72px)]">Which machine stands here?</h1>
  <ProblemNote problem={page.problem} />
  {#each page.value?.machines ?? [] as m (m.id)}
    <button type="button" class="btn btn-outline btn-primary min-h-[64px] justify-start" onclick={() => open(m.id)}
      >{[m.name, m.place].filter(Boolean).join(', ')}</button
    >
  {:else}{#if page.value}<p>No machine stands on the bench yet.</p>{/if}
  {/each}
</div>
