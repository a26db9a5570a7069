<!-- Who descales it, and why; the stance of whoever keeps it. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'

  let { w, onstance }: { w: Schemas['WaterAtWork']; onstance: (stance: string) => void } = $props()
  // the three stances; the layout's own stands until one is said
  const stances = ['by layout', 'the owner', 'nobody, low-mineral water', 'a workshop']
  const stance = $derived(w.stance ?? 'by layout')
  const away: Record<Schemas['WaterAtWork']['suits']['way'], string> = {
    at_home: 'text-done',
    with_care: '',
    workshop: 'text-stop',
    treat_water: 'text-stop',
  }
</script>

<p class="head-voice mt-1 text-[22px] {away[w.suits.way]}">{w.suits.finding.title}</p>
{#each w.suits.finding.because as r}<p class="mt-1">{r.text}</p>{/each}
{#each w.suits.finding.next ?? [] as n}<p class="mt-1"><b>{n}</b></p>{/each}
<label class="for-keeper label-voice mt-2 block"
  >Your stance
  <select class="ml-1.5" value={stance} onchange={(e) => onstance(e.currentTarget.value)}>
    {#each stances as s (s)}<option value={s}>{s}</option>{/each}
  </select></label
>
<p class="text-ink-2 mt-2 text-[15px]">
  The boiler's material, its warranty and condition: <a
    class="underline underline-offset-4"
    href={p('/machines/:id', { params: { id: w.machine_id } })}>the machine's page</a
  >. How it is descaled, led step by step:
  <a class="underline underline-offset-4" href={p('/machines/:id/descale', { params: { id: w.machine_id } })}
    >the descale card</a
  >.
</p>
