<!-- What is seen from the side: under the machine, valves, joints, the handle and its spouts. -->
<svelte:options namespace="svg" />

<script lang="ts">
  let { sight, verdict, id }: { sight: string; verdict: string; id: string } = $props()
  const drop = (x: number, y: number) => `M${x} ${y - 12} q11 14 0 24 q-11 -10 0 -24 Z`
</script>

{#if sight === 'under'}
  <path d="M34 30 H206 V160 H34 Z" class="paper" /><path d="M58 160 V182 H76 V160 M164 160 V182 H182 V160" /><path
    d="M14 184 H226"
  />
  {#if verdict === 'wet'}
    <ellipse cx="120" cy="202" rx="92" ry="18" class="water" /><path
      d="M60 202 q14 -8 28 0 t28 0 t28 0 t28 0"
      class="thin water"
    /><path d={drop(104, 172)} class="drop" /><path d={drop(138, 168)} class="drop" />
  {:else}<path d="M96 206 L114 222 L148 194" class="water" />{/if}
{:else if sight === 'relief'}
  <path d="M84 30 H156 V92 H84 Z M104 30 V12 H136 V30" class="paper" /><path
    d="M156 52 H196 V96 M156 76 H174 V96"
  /><path d="M96 44 l48 8 l-48 8 l48 8 l-48 8" class="thin" /><path d="M50 92 H190 M50 92 V226 M190 108 V226" />
  {#if verdict === 'drips'}<path d={drop(185, 126)} class="drop" /><path d={drop(185, 168)} class="drop" />
  {:else if verdict === 'blows'}<path
      d="M176 106 Q158 150 128 214 M185 106 V222 M194 106 Q212 150 228 206"
      class="limit"
      stroke-width="6"
    /><path d="M150 140 q-14 6 -12 20 M214 132 q14 4 14 18 M168 190 q10 10 26 2" class="thin" />
  {:else}<path d="M176 132 l8 10 l20 -24" class="water" />{/if}
{:else if sight === 'lever'}
  <path d="M70 130 H170 V220 H70 Z" class="paper" /><circle cx="120" cy="150" r="16" />
  {#if verdict === 'easy'}<path d="M120 150 L120 24" stroke-width="12" /><path
      d="M164 140 A60 60 0 0 0 150 66 M150 66 l-4 20 M150 66 l20 6"
      class="water"
    />
  {:else}<path d="M120 150 L196 66" stroke-width="12" /><path
      d="M120 60 A90 90 0 0 1 178 82"
      class="thin"
      stroke-dasharray="5 8"
    /><path d="M40 100 l14 -14 l0 24 l14 -14 M30 140 l14 -14 l0 24 l14 -14" class="limit" />{/if}
{:else if sight === 'joint'}
  <path d="M20 60 H84 V112 H20" class="paper" /><circle cx="116" cy="86" r="36" class="paper" /><path
    d="M84 50 H104 V122 H84 Z"
    fill="url(#{id}-hatch)"
  /><path d="M84 50 H104 V122 H84 Z M146 104 L204 214 M128 118 L178 224" />
  {#if verdict === 'dry'}<path d="M172 92 A58 58 0 0 1 160 138 M160 138 l0 -20 M160 138 l18 -8" class="water" />
  {:else}<path d={drop(96, 150)} class="drop" /><path d={drop(96, 192)} class="drop" /><path
      d={drop(122, 168)}
      class="drop"
    />{/if}
{:else if sight === 'screws'}
  <path d="M30 40 H210 V110 H30 Z" class="paper" /><path d="M94 110 H146 V134 H94 Z M84 134 H156 V160 H84 Z" /><path
    d="M104 147 H136"
  />
  {#if verdict === 'drips'}<path d={drop(120, 186)} class="drop" /><path
      d={drop(120, 222)}
      class="drop"
    />{:else}<path d="M98 196 L114 212 L146 182" class="water" />{/if}
{:else if sight === 'spring'}
  <path d="M50 60 H190 V92 H50 Z M190 76 H232" class="paper" /><path
    d="M62 76 q9 -12 18 0 t18 0 t18 0 t18 0 t18 0 t18 0 t12 0"
    class="thin"
  />
  {#if verdict === 'holds'}<path d="M62 92 L74 156 H166 L178 92" /><path
      d="M84 148 v0 M102 148 v0 M120 148 v0 M138 148 v0 M156 148 v0"
      stroke-width="7"
    /><path d="M96 194 L114 210 L148 178" class="water" />
  {:else}<path d="M52 154 L70 224 H158 L176 140" class="paper" /><path
      d="M80 214 v0 M98 214 v0 M116 214 v0 M134 214 v0"
      stroke-width="7"
    /><path d="M206 108 V172 M192 156 L206 174 L220 156" class="water" />{/if}
{:else if sight === 'spouts'}
  <path d="M56 26 H184 V66 H140 V96 H100 V66 H56 Z" class="paper" /><path
    d="M100 96 H140 M100 96 Q66 100 62 138 H86 Q90 118 108 116 H132 Q150 118 154 138 H178 Q174 100 140 96"
    class="paper"
  />
  {#if verdict === 'stained'}<path
      d="M100 96 Q66 100 62 138 H86 Q90 118 108 116 H132 Q150 118 154 138 H178 Q174 100 140 96 Z"
      fill="url(#{id}-hatch)"
    />{/if}
  {#if verdict === 'blocked'}
    <path d="M52 128 Q74 112 96 130 Q104 150 84 156 Q58 160 52 128 Z" class="solid" /><path
      d="M74 172 v4 M74 206 v4"
      class="water"
    />
  {:else}<path d="M70 144 V222 M78 144 V222" class="water" />{/if}
  <path d="M162 144 V222 M170 144 V222" class="water" />
{:else}
  <path d="M108 14 H132 V96 H108 Z M114 96 H126 V226 H114 Z" class="paper" />
  {#if verdict === 'crusted'}<path
      d="M104 128 Q92 150 106 168 Q90 190 108 226 H132 Q150 196 134 176 Q150 150 136 128 Z"
      fill="url(#{id}-thick)"
    /><path d="M104 128 Q92 150 106 168 Q90 190 108 226 H132 Q150 196 134 176 Q150 150 136 128 Z" />{/if}
{/if}
