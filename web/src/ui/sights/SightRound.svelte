<!-- What is seen face on: screens, seals, gauges, the handle from above. -->
<svelte:options namespace="svg" />

<script lang="ts">
  let { sight, verdict, id }: { sight: string; verdict: string; id: string } = $props()

  const at = (r: number, degrees: number): [number, number] => [
    120 + r * Math.cos((degrees * Math.PI) / 180),
    120 + r * Math.sin((degrees * Math.PI) / 180),
  ]
  // the holes of a screen, ring by ring
  const holes = [1, 2, 3, 4, 5].flatMap((ring) =>
    Array.from({ length: ring * 6 }, (_, i): [number, number] => at(ring * 17, (i * 60) / ring + ring * 9)),
  )
  const shut = (i: number, of: number) => (i * 7 + (i % 3) * 5) % 12 < of
  const drop = ([x, y]: [number, number], k = 1) =>
    `M${x} ${y - 7 * k} C${x + 5 * k} ${y} ${x + 4 * k} ${y + 6 * k} ${x} ${y + 6 * k} ` +
    `C${x - 4 * k} ${y + 6 * k} ${x - 5 * k} ${y} ${x} ${y - 7 * k} Z`
  const wet = $derived(holes.filter(([x, y]) => verdict === 'even' || x < 104 - (y - 120) * 0.25))
  const dry = $derived(holes.filter((h) => !wet.includes(h)))
  // where the needle stands, degrees from twelve o'clock
  const needle: Record<string, number> = {
    none: -120,
    low: -62,
    usual: 0,
    high: 48,
    over: 96,
    shakes: -20,
    clear: 10,
    misted: 10,
  }
  const angle: Record<string, number> = { short: -48, at_mark: -4, past: 16, far_past: 40 }
</script>

{#if sight === 'screen'}
  <circle cx="120" cy="120" r="102" class="paper" />
  {#if verdict === 'stained' || verdict === 'blocked'}<circle
      cx="120"
      cy="120"
      r="100"
      fill="url(#{id}-hatch)"
      stroke="none"
    />{/if}
  {#each holes as [x, y], i (i)}
    <circle
      cx={x}
      cy={y}
      r="6"
      class="thin {(verdict === 'some_blocked' && shut(i, 3)) || (verdict === 'blocked' && shut(i, 9))
        ? 'solid'
        : 'paper'}"
    />
  {/each}
  <circle cx="120" cy="120" r="102" />
{:else if sight === 'wetting'}
  <circle cx="120" cy="120" r="102" class="paper" />
  {#each dry as [x, y], i (i)}<circle cx={x} cy={y} r="6" class="thin faint" />{/each}
  {#each wet as h, i (i)}{#if i % 2 === 0}<path d={drop(h, 1.25)} class="drop" />{:else}<circle
        cx={h[0]}
        cy={h[1]}
        r="6"
        class="thin"
      />{/if}{/each}
{:else if sight === 'seal'}
  {#if verdict === 'chipped'}
    <path
      d="M150 22 A102 102 0 1 1 96 21 L104 40 L116 52 L108 62 A60 60 0 1 0 140 63 L136 48 L146 40 Z"
      class="paper"
    />
  {:else}
    <circle cx="120" cy="120" r="102" class="paper" /><circle cx="120" cy="120" r="60" class="ground" />
  {/if}
  {#if verdict === 'springy'}
    <path d="M96 191 Q120 199 144 191" class="water" /><path
      d="M120 232 V206 M110 216 L120 205 L130 216"
      class="water"
    />
  {:else if verdict === 'stiff'}
    <path d="M88 186 Q120 214 152 186" stroke-width="7" /><path d="M96 176 Q120 196 144 176" class="thin" />
  {:else if verdict === 'brittle'}
    <path
      d="M120 18 L126 34 L114 46 L122 60 M218 92 L200 98 L196 110 L180 112 M52 196 L62 184 L76 184 L82 166
        M34 66 L50 74 L56 90 L68 92 M196 190 L184 182 L172 182 L164 162"
    />
    <path d="M120 18 A102 102 0 0 1 120 222 M120 60 A60 60 0 0 1 120 180" class="thin" stroke-dasharray="3 8" />
  {/if}
{:else if sight === 'gauze'}
  <circle cx="120" cy="120" r="102" class="paper" />
  {#each Array.from({ length: 8 }, (_, i) => 30 + i * 26) as x (x)}
    {@const h = Math.sqrt(Math.max(0, 102 * 102 - (x - 120) * (x - 120)))}
    <path d="M{x} {120 - h} V{120 + h} M{120 - h} {x} H{120 + h}" class="thin" />
  {/each}
  {#if verdict === 'dusting'}<circle cx="120" cy="120" r="100" fill="url(#{id}-dots)" stroke="none" />
  {:else if verdict === 'crusted'}
    <path
      d="M40 84 Q60 44 96 56 Q120 30 150 52 Q190 56 190 96 Q218 120 192 146 Q196 186 156 184 Q132 210 104 190
        Q60 196 60 158 Q26 132 40 84 Z"
      class="paper"
    />
    <path
      d="M40 84 Q60 44 96 56 Q120 30 150 52 Q190 56 190 96 Q218 120 192 146 Q196 186 156 184 Q132 210 104 190
        Q60 196 60 158 Q26 132 40 84 Z M84 96 q14 -14 28 0 M130 118 q14 -14 28 0 M92 148 q14 -14 28 0"
      fill="url(#{id}-thick)"
    />
  {/if}
{:else if sight === 'tip'}
  <circle cx="120" cy="120" r="84" class="paper" /><circle cx="120" cy="120" r="102" />
  {#each [45, 135, 225, 315] as degrees, i (degrees)}
    {@const [x, y] = at(44, degrees)}
    {@const stuck = verdict === 'some_blocked' && i % 3 === 0}
    <circle cx={x} cy={y} r="15" class={stuck ? 'solid' : ''} />
    {#if stuck}<path d="M{x - 20} {y + 6} q8 18 22 14 q18 -2 18 -18" fill="url(#{id}-hatch)" />{:else}<circle
        cx={x}
        cy={y}
        r="5"
        class="drop"
      />{/if}
  {/each}
{:else if sight === 'rim'}
  {#if verdict === 'smooth'}<circle cx="120" cy="120" r="102" class="paper" /><circle cx="120" cy="120" r="86" />
  {:else}
    <path
      d="M120 18 A102 102 0 0 1 222 120 A102 102 0 0 1 150 218 Q140 190 112 222 A102 102 0 0 1 96 21 L104 36 L112 18 Z"
      class="paper"
    />
    <path d="M120 34 A86 86 0 0 1 206 120 A86 86 0 0 1 158 197 Q136 168 104 204 A86 86 0 0 1 98 37" />
    <path d="M206 78 l-20 8 l10 10 l-22 10" />
  {/if}
  {#each [20, 38, 56] as r (r)}<circle cx="120" cy="120" {r} class="thin" stroke-dasharray="1 12" />{/each}
{:else if sight === 'lock_angle'}
  <circle cx="120" cy="92" r="74" class="paper" /><circle cx="120" cy="92" r="56" />
  <path d="M120 178 V232" class="thin" stroke-dasharray="5 7" />
  <g transform="rotate({-(angle[verdict] ?? 0)} 120 92)"
    ><path d="M108 160 H132 L136 228 Q120 238 104 228 Z" fill="url(#{id}-hatch)" /><path
      d="M108 160 H132 L136 228 Q120 238 104 228 Z"
    /></g
  >
  {#if verdict !== 'at_mark'}
    {@const a = ((angle[verdict] ?? 0) * Math.PI) / 180}
    <path
      d="M120 208 A116 116 0 0 {angle[verdict]! > 0 ? 0 : 1} {120 + 116 * Math.sin(a)} {92 + 116 * Math.cos(a)}"
      class="water"
    />
  {:else}<path d="M106 194 L118 206 L138 182" class="water" />{/if}
{:else}
  <circle cx="120" cy="120" r="102" class="paper" />
  {#if sight !== 'glass'}
    <path d="M{at(80, -120).join(' ')} A80 80 0 0 1 {at(80, -60).join(' ')}" stroke-width="10" class="thin" />
    <path d="M{at(86, -6).join(' ')} L{at(66, -6).join(' ')}" class="limit" stroke-width="8" />
  {/if}
  {#each [-220, -190, -160, -130, -100, -70, -40, -10, 20, 40] as d (d)}<path
      d="M{at(94, d).join(' ')} L{at(84, d).join(' ')}"
      class="thin"
    />{/each}
  {#if verdict === 'shakes'}
    {#each [-44, -20, 4] as d, i (d)}<path
        d="M120 120 L{at(78, d - 90).join(' ')}"
        stroke-dasharray={i === 1 ? undefined : '4 8'}
      />{/each}
    <path d="M74 34 q-12 12 -6 24 M166 30 q14 10 8 24" class="water" />
  {:else}<path d="M120 120 L{at(78, (needle[verdict] ?? 0) - 90).join(' ')}" stroke-width="6" />{/if}
  <circle cx="120" cy="120" r="9" class="solid" />
  {#if verdict === 'misted'}
    <path d="M40 150 q16 -8 32 0 t32 0 t32 0 t32 0 t32 0" class="water" />
    {#each [[70, 178], [112, 188], [150, 172], [92, 164], [174, 160], [134, 204]] as [x, y], i (i)}<path
        d={drop([x!, y!], 1.3)}
        class="drop"
      />{/each}
  {/if}
{/if}
