<!-- What holds or gives water: cups, jugs, the tank and its strainer, and how heat comes. -->
<svelte:options namespace="svg" />

<script lang="ts">
  let { sight, verdict, id }: { sight: string; verdict: string; id: string } = $props()
  const tone: Record<string, string> = { pale: 'dots', brown: 'thick', dark: 'full', weak: 'none' }
  const level: Record<string, number> = { usual: 104, weaker: 142, weak: 190 }
  const bubbles = [
    [74, 88, 9],
    [94, 82, 13],
    [118, 86, 11],
    [142, 80, 14],
    [166, 88, 9],
    [106, 66, 9],
    [130, 64, 8],
  ] as const
  const flakes = [
    [92, 84],
    [128, 100],
    [150, 128],
    [98, 140],
    [124, 164],
    [150, 186],
    [90, 184],
    [112, 202],
  ] as const
  const grains = Array.from({ length: 11 }, (_, i): [number, number] => [
    78 + ((i * 29) % 80),
    194 - ((i * 17) % 11) - Math.floor(i / 7) * 16,
  ])
</script>

{#if sight === 'cup' || sight === 'discharge'}
  {#if tone[verdict]}<path d="M60 96 H180 L170 206 H70 Z" fill="url(#{id}-{tone[verdict]})" stroke="none" />{/if}
  <path d="M52 56 H188 L174 210 H66 Z M186 84 q34 0 28 36 q-6 30 -36 30" />
  <path d="M58 96 H182" class={verdict === 'clear' ? 'water' : ''} />
  {#if sight === 'discharge'}
    <path d="M104 10 H136 V34 H104 Z M112 34 v0 M128 34 v0" class="paper" /><path
      d="M112 44 V88 M120 44 V94 M128 44 V88"
      class="thin {verdict === 'clear' ? 'water' : ''}"
      stroke-dasharray={verdict === 'dark' ? undefined : verdict === 'brown' ? '9 4' : '3 7'}
    />
  {/if}
  {#if verdict === 'foamy' || verdict === 'dark'}
    {#each bubbles as [x, y, r], i (i)}{#if verdict === 'foamy' || i < 5}<circle
          cx={x}
          cy={y}
          {r}
          class="thin paper"
        />{/if}{/each}
  {:else if verdict === 'grainy'}
    {#each grains as [x, y], i (i)}<rect {x} {y} width="7" height="7" class="solid" stroke="none" />{/each}
  {/if}
{:else if sight === 'flow'}
  <path d="M92 12 H148 V36 H92 Z" class="paper" />
  {#if verdict === 'usual'}<path
      d="M108 42 V{level[verdict]! - 6} M120 42 V{level[verdict]! - 2} M132 42 V{level[verdict]! - 6}"
      class="water"
    />
  {:else if verdict === 'weaker'}<path
      d="M114 42 V{level[verdict]! - 4} M126 42 V{level[verdict]! - 4}"
      class="water"
      stroke-dasharray="12 8"
    />
  {:else}<path d="M120 46 v6 M120 78 v7 M120 112 v7 M120 150 v7" class="water" />{/if}
  <path d="M50 72 L62 222 H178 L190 72 M188 100 q34 0 28 40 q-6 34 -32 34" />
  {#each [104, 142, 180] as y (y)}<path d="M{60 + (y - 100) / 14} {y} h16" class="thin" />{/each}
  <path
    d="M{53 + (level[verdict]! - 72) / 12} {level[verdict]} H{187 - (level[verdict]! - 72) / 12}"
    class="water"
    stroke-width="6"
  />
{:else if sight === 'tank_wall'}
  <path d="M48 30 V206 Q48 218 60 218 H180 Q192 218 192 206 V30" class="paper" />
  {#if verdict === 'clean'}<path d="M52 88 q12 -9 23 0 t23 0 t23 0 t23 0 t23 0 t21 0" class="water" />
  {:else if verdict === 'slimy'}
    <path d="M52 88 q12 -9 23 0 t23 0 t23 0 t23 0 t23 0 t21 0" class="water" />
    <path
      d="M52 92 V206 Q52 214 62 214 H80 Q70 190 78 168 Q62 150 72 124 Q60 110 64 92 Z M188 92 V206
        Q188 214 178 214 H150 Q166 196 160 176 Q178 158 168 132 Q180 112 176 92 Z"
      fill="url(#{id}-thick)"
    />
  {:else if verdict === 'ringed'}
    <path d="M52 86 H188" stroke-width="11" stroke-dasharray="2 9" stroke-linecap="butt" /><path
      d="M52 98 H188"
      class="thin"
      stroke-dasharray="14 5"
    /><path d="M52 150 q12 -9 23 0 t23 0 t23 0 t23 0 t23 0 t21 0" class="water" />
  {:else}
    <path d="M52 88 q12 -9 23 0 t23 0 t23 0 t23 0 t23 0 t21 0" class="water" />
    <path d="M150 34 L138 74 L158 100 L136 138 L152 166 L140 196" stroke-width="6" /><path
      d="M150 34 L176 60 M136 138 L108 150"
    /><path d="M204 190 q8 12 0 20 q-8 -8 0 -20 Z M216 160 q8 12 0 20 q-8 -8 0 -20 Z" class="drop" />
  {/if}
{:else if sight === 'strainer'}
  <path d="M96 14 V48 H144 V14" /><path d="M76 48 H164 V190 Q164 216 120 216 Q76 216 76 190 Z" class="paper" />
  {#each [70, 94, 118, 142, 166, 190] as y (y)}<path d="M76 {y} H164" class="thin" />{/each}
  {#each [98, 120, 142] as x (x)}<path d="M{x} 48 V212" class="thin" />{/each}
  {#if verdict === 'slimy'}
    <path
      d="M70 84 Q120 66 172 92 Q184 128 164 150 Q168 186 150 230 Q138 206 128 226 Q118 200 104 232
        Q92 190 74 170 Q60 120 70 84 Z"
      fill="url(#{id}-thick)"
    /><path
      d="M70 84 Q120 66 172 92 Q184 128 164 150 Q168 186 150 230 Q138 206 128 226 Q118 200 104 232
        Q92 190 74 170 Q60 120 70 84 Z"
    />
  {:else if verdict === 'flakes'}
    {#each flakes as [x, y], i (i)}<path
        d="M{x} {y! - 12} L{x! + 14} {y! - 2} L{x! + 4} {y! + 12} L{x! - 12} {y! + 4} Z"
        class="paper"
      />{/each}
  {/if}
{:else}
  <!-- how long it takes to its heat: time runs right, heat up -->
  <path d="M36 20 V206 H222" /><path d="M36 62 H222" class="thin" stroke-dasharray="6 8" />
  {#if verdict === 'usual'}<path d="M36 206 Q72 74 112 62 H214" class="water" stroke-width="6" /><path
      d="M112 62 V206"
      class="thin water"
      stroke-dasharray="4 6"
    />
  {:else if verdict === 'slower'}<path d="M36 206 Q72 74 112 62" class="thin" stroke-dasharray="4 7" /><path
      d="M36 206 Q110 92 190 62 H214"
      class="water"
      stroke-width="6"
    /><path d="M190 62 V206" class="thin water" stroke-dasharray="4 6" />
  {:else}<path d="M36 206 Q72 74 112 62" class="thin" stroke-dasharray="4 7" /><path
      d="M36 206 Q90 138 214 130"
      class="water"
      stroke-width="6"
    /><path d="M168 78 l22 22 M190 78 l-22 22" />{/if}
{/if}
