<!-- A photo of the cup, offered and never needed: what it saw stands on it; it proposes, somebody takes it or not. -->
<script lang="ts">
  import { ask, client, problemOf, type Problem, type Schemas } from '../../data/api'
  import { sent, smaller } from './photo'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { ontake, button = 'Take it over' }: { ontake: (seen: Schemas['PhotoCup']) => void; button?: string } =
    $props()
  let url = $state('')
  let shape = $state({ w: 1, h: 1 })
  let seen = $state<Schemas['PhotoCup']>()
  let problem = $state<Problem>()
  let busy = $state(false)
  const short = $derived(Math.min(shape.w, shape.h))
  const rings = $derived(seen?.rings ?? [0.27, 0.37, 0.45])

  async function look(input: HTMLInputElement) {
    const file = input.files?.[0]
    if (!file) return
    busy = true
    seen = problem = undefined
    try {
      const made = await smaller(file)
      url = made.url
      shape = { w: made.w, h: made.h }
    } catch {
      url = ''
      problem = {
        title: 'This is no photo that can be read',
        detail: 'Take it again, as a JPEG or a PNG.',
      } as Problem
      busy = false
      return
    }
    try {
      seen = await ask(client.POST('/photos/cup', { body: { photo: sent(url) } }))
    } catch (error) {
      problem = problemOf(error)
    }
    busy = false
    input.value = ''
  }
</script>

<details class="snap">
  <summary class="linked py-2 font-semibold">Or by a photo</summary>
  <p class="max-w-xl text-[16px]">
    A white cup from straight above, in daylight: the water in the inner ring, the white wall in the outer one. It
    proposes; you decide. It was tried on drawn pictures only. The photo is not kept.
  </p>
  <label class="btn btn-outline btn-primary mt-2"
    >{url ? 'Another photo' : 'Take or choose a photo'}<input
      class="sr-only"
      type="file"
      accept="image/jpeg,image/png"
      capture="environment"
      onchange={(e) => look(e.currentTarget)}
    /></label
  >
  {#if busy}<p role="status">It is looked at.</p>{/if}
  {#if url}
    <div class="shown w-[min(100%,300px)]">
      <img src={url} alt="what was taken" />
      <svg viewBox="0 0 {shape.w} {shape.h}" aria-hidden="true">
        <g
          transform="translate({(shape.w - short) / 2} {(shape.h - short) / 2}) scale({short})"
          fill="none"
          stroke-width="0.006"
        >
          {#each rings as r (r)}<circle cx="0.5" cy="0.5" {r} stroke="#000" stroke-width="0.01" /><circle
              cx="0.5"
              cy="0.5"
              {r}
              stroke="#fff"
            />{/each}
          {#each seen?.marks ?? [] as m, i (i)}<circle
              cx={m.x}
              cy={m.y}
              r={m.r}
              stroke="#fff"
              stroke-width="0.012"
            /><circle cx={m.x} cy={m.y} r={m.r} stroke="#1d3fbb" />{/each}
        </g>
      </svg>
    </div>
  {/if}
  {#if problem}<ProblemNote {problem} />{/if}
  {#if seen}
    {@const s = seen}
    <div role="status">
      <p class="head-voice mt-2 text-[26px]">{s.says}</p>
      {#each s.because as r (r.text)}<p class="text-[16px]">{r.text}</p>{/each}
      <button type="button" class="btn btn-primary mt-2" onclick={() => ontake(s)}>{button}</button>
    </div>
  {/if}
</details>

<style>
  .shown svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
</style>
