<!-- The rules that a descale may go by, side by side; the one that decides is heavy. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import { span } from '../../ui/format'

  let { w }: { w: Schemas['WaterAtWork'] } = $props()
</script>

<table class="sums">
  <caption class="label-voice">From clean, the rules side by side</caption>
  <tbody>
    <tr class:decides={w.decided_by === 'scale'}
      ><th scope="row">by the scale itself, at its early end</th><td
        ><b><Num worked={w.by_scale} text={span(w.by_scale.value)} /></b
        >{#if w.by_scale.low < w.by_scale.high && w.by_scale.value < 3650}<div class="label-voice">
            to {span(w.by_scale.high)}
          </div>{/if}</td
      ></tr
    >
    <tr class:decides={w.decided_by === 'calendar'}
      ><th scope="row"
        >by the trade's calendar{w.measured && w.calendar.value ? ', not counted: the water was measured' : ''}</th
      ><td
        ><b
          >{#if w.calendar.value}<Num worked={w.calendar} text={span(w.calendar.value)} />{:else}none kept{/if}</b
        ></td
      ></tr
    >
    <tr class:decides={w.decided_by === 'year'}
      ><th scope="row">at the latest</th><td><b>{span(w.cap_days)}</b></td></tr
    >
  </tbody>
</table>

<style>
  .decides th,
  .decides td {
    font-weight: 700;
    border-bottom: 3px solid var(--color-ink);
  }
</style>
