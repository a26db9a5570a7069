<!-- A photo of a strip beside its own chart: press the white, the pad, then each field; it proposes the nearest. -->
<script lang="ts">
  import { ask, client, type Problem, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { short } from '../../ui/format'
  import { sent, smaller } from './photo'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { values, ontake }: { values: number[]; ontake: (value: number) => void } = $props()
  type Place = { x: number; y: number }
  let url = $state('')
  let white = $state<Place>()
  let pad = $state<Place>()
  let chart = $state<Schemas['PhotoPatch'][]>([])
  let at = $state(0) // of the values, which field is pressed next
  let seen = $state<Schemas['PhotoStrip']>()
  const act = new Act()
  const next = $derived(
    !white
      ? 'Press something white: the card, or the strip’s plastic.'
      : !pad
        ? 'Press the middle of the wet pad.'
        : at < values.length
          ? `Press the chart’s field for ${short(values[at]!)}.`
          : '',
  )

  const marks = $derived(
    [
      white && { ...white, t: 'white' },
      pad && { ...pad, t: 'pad' },
      ...chart.map((c) => ({ ...c, t: short(c.value) })),
    ].filter((x) => x !== undefined),
  )

  async function choose(input: HTMLInputElement) {
    const file = input.files?.[0]
    if (!file) return
    again()
    try {
      url = (await smaller(file)).url
    } catch {
      act.problem = {
        title: 'This is no photo that can be read',
        detail: 'Take it again, as a JPEG or a PNG.',
      } as Problem
    }
    input.value = ''
  }
  function again() {
    white = pad = seen = act.problem = undefined
    chart = []
    at = 0
  }
  function press(event: MouseEvent) {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
    const place = { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height }
    if (!white) white = place
    else if (!pad) pad = place
    else if (at < values.length) {
      chart = [...chart, { ...place, value: values[at]! }]
      at++
    }
  }
  async function judge() {
    if (
      !(await act.try(async () => {
        seen = await ask(
          client.POST('/photos/strip', { body: { photo: sent(url), white: white!, pad: pad!, chart } }),
        )
      }))
    )
      seen = undefined
  }
</script>

<details class="snap">
  <summary class="linked py-2 font-semibold">Or by a photo of the strip beside its chart</summary>
  <p class="max-w-xl text-[16px]">
    Strip and chart on something white, in daylight. It proposes; you decide. It was tried on drawn pictures only.
    The photo is not kept.
  </p>
  <label class="btn btn-outline btn-primary mt-2"
    >{url ? 'Another photo' : 'Take or choose a photo'}<input
      class="sr-only"
      type="file"
      accept="image/jpeg,image/png"
      capture="environment"
      onchange={(e) => choose(e.currentTarget)}
    /></label
  >
  {#if url}
    <p class="num-voice mt-2 text-[20px]" role="status">{next}</p>
    <button
      type="button"
      class="shown w-[min(100%,460px)] cursor-crosshair"
      onclick={press}
      aria-label={next || 'the photo'}
    >
      <img src={url} alt="the strip beside its chart" />
      {#each marks as m (m.t)}<span class="mark" style:left="{m.x * 100}%" style:top="{m.y * 100}%">{m.t}</span
        >{/each}
    </button>
    <div class="flex flex-wrap gap-3">
      {#if pad && at < values.length}<button type="button" class="linked" onclick={() => at++}
          >The chart has no {short(values[at]!)}</button
        >{/if}
      <button type="button" class="linked" onclick={again}>Press anew</button>
      {#if chart.length > 1}<button type="button" class="btn btn-primary" onclick={judge}>Compare</button>{/if}
    </div>
  {/if}
  <ProblemNote problem={act.problem} />
  {#if seen}
    {@const s = seen}
    <div role="status">
      <p class="head-voice mt-2 text-[26px]">{s.says}</p>
      {#each s.because as r (r.text)}<p class="text-[16px]">{r.text}</p>{/each}
      <button type="button" class="btn btn-primary mt-2" onclick={() => ontake(s.value)}
        >Take {short(s.value)} over</button
      >
    </div>
  {/if}
</details>

<style>
  .mark {
    position: absolute;
    padding: 0 5px;
    border: 2px solid var(--color-act);
    background: var(--color-slip);
    color: var(--color-ink);
    font-size: 13px;
    font-weight: 700;
    transform: translate(-50%, -50%);
  }
</style>
