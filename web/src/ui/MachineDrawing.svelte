<!-- A machine of a layout, drawn from its tank to its tray. What nobody has told is dashed. -->
<script lang="ts">
  import { geometry, type Scheme, type Spot } from './scheme'

  let {
    scheme,
    unsure = [],
    late = [],
    picked,
    small = false,
  }: { scheme: Scheme; unsure?: Spot[]; late?: Spot[]; picked?: Spot; small?: boolean } = $props()
  const id = $props.id()
  const g = $derived(geometry(scheme))
</script>

<svg class:small viewBox={small ? '20 20 750 390' : `0 0 ${g.width} 410`} aria-hidden="true" focusable="false">
  <defs>
    <pattern id="{id}-w" width="16" height="11" patternUnits="userSpaceOnUse"
      ><path d="M0 6q4-6 8 0t8 0" fill="none" stroke="currentColor" stroke-width="1.5" opacity="0.75" /></pattern
    >
  </defs>
  {#each g.water as w}<rect
      x={w.x}
      y={w.y}
      width={w.w}
      height={w.h}
      fill="url(#{id}-w)"
      class:late={late.includes(w.spot)}
    />{/each}
  {#each g.shapes as s}
    <path
      d={s.d}
      class:thick={s.thick}
      class:thin={s.thin}
      class:full={s.full}
      class:late={late.includes(s.spot)}
      class:picked={picked === s.spot}
      class:dashed={s.box && unsure.includes(s.spot)}
    />
  {/each}
</svg>

<style>
  svg {
    display: block;
    width: 100%;
    height: auto;
  }
  path {
    fill: none;
    stroke: currentColor;
    stroke-width: 4;
    stroke-linejoin: miter;
  }
  .small path {
    stroke-width: 11;
  }
  .small .thin {
    display: none;
  }
  .small .thick {
    stroke-width: 20;
  }
  .thick {
    stroke-width: 9;
  }
  .thin {
    stroke-width: 3;
  }
  .full {
    fill: currentColor;
  }
  .dashed {
    stroke-dasharray: 10 7;
  }
  .late {
    color: var(--color-stop);
  }
  .picked {
    color: var(--color-act);
  }
</style>
