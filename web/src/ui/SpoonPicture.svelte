<!-- Level teaspoons, drawn so that the filled area is the fraction. -->
<script lang="ts">
  import type { Schemas } from '../data/api'
  import { level } from './spoon'

  let { spoon, height = 190 }: { spoon: Schemas['Spoon']; height?: number } = $props()
  const id = $props.id()
  const bowls = $derived([
    ...Array.from({ length: spoon.whole }, () => 1),
    ...(spoon.num ? [spoon.num / spoon.den] : []),
  ])
</script>

<div class="flex gap-8" aria-hidden="true">
  {#each bowls as share, i (i)}
    {@const top = 62 - level(share) * 60}
    <svg viewBox="0 0 92 270" {height}>
      <defs>
        <pattern id="{id}-{i}" width="9" height="9" patternUnits="userSpaceOnUse"
          ><circle cx="4.5" cy="4.5" r="2.2" fill="currentColor" /></pattern
        >
        <clipPath id="{id}-{i}-bowl"><ellipse cx="46" cy="62" rx="42" ry="60" /></clipPath>
      </defs>
      <g clip-path="url(#{id}-{i}-bowl)">
        <rect x="0" y={top} width="92" height="125" fill="url(#{id}-{i})" />
        <line x1="0" y1={top} x2="92" y2={top} stroke="var(--color-act)" stroke-width="4" />
      </g>
      <ellipse cx="46" cy="62" rx="42" ry="60" fill="none" stroke="currentColor" stroke-width="4" />
      <path d="M40 122L35 262q11 10 22 0L52 122" fill="none" stroke="currentColor" stroke-width="4" />
    </svg>
  {/each}
</div>
