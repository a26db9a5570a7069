<!-- What may be seen of a thing: line drawings of ours, one a verdict, told apart by shape as well as tone. -->
<script lang="ts">
  import SightFlow from './SightFlow.svelte'
  import SightRound from './SightRound.svelte'
  import SightSide from './SightSide.svelte'

  let { sight, verdict, size = '100%' }: { sight: string; verdict: string; size?: string } = $props()
  const id = $props.id()
  const round = ['screen', 'wetting', 'seal', 'gauze', 'tip', 'rim', 'glass', 'steam_bar', 'pump_bar', 'lock_angle']
  const flows = ['flow', 'discharge', 'cup', 'tank_wall', 'strainer', 'heat_up']
</script>

<svg viewBox="0 0 240 240" width={size} aria-hidden="true">
  <defs>
    <pattern id="{id}-hatch" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)"
      ><path d="M0 4 H9" stroke="currentColor" stroke-width="2" /></pattern
    >
    <pattern id="{id}-dots" width="13" height="13" patternUnits="userSpaceOnUse"
      ><circle cx="4" cy="4" r="1.8" fill="currentColor" /></pattern
    >
    <pattern id="{id}-thick" width="7" height="7" patternUnits="userSpaceOnUse"
      ><circle cx="3" cy="3" r="2.1" fill="currentColor" /></pattern
    >
    <pattern id="{id}-full" width="4.6" height="4.6" patternUnits="userSpaceOnUse"
      ><circle cx="2.3" cy="2.3" r="1.9" fill="currentColor" /></pattern
    >
  </defs>
  <g fill="none" stroke="currentColor" stroke-width="4" stroke-linejoin="round" stroke-linecap="round">
    {#if round.includes(sight)}<SightRound {sight} {verdict} {id} />{:else if flows.includes(sight)}<SightFlow
        {sight}
        {verdict}
        {id}
      />{:else}<SightSide {sight} {verdict} {id} />{/if}
  </g>
</svg>

<style>
  svg {
    display: block;
    max-width: 100%;
  }
  g :global(.water) {
    stroke: var(--color-act);
  }
  g :global(.drop) {
    fill: var(--color-act);
    stroke: none;
  }
  g :global(.limit) {
    stroke: var(--color-stop);
  }
  g :global(.thin) {
    stroke-width: 2.5;
  }
  g :global(.ground) {
    fill: var(--color-paper);
  }
  g :global(.paper) {
    fill: var(--color-slip);
  }
  g :global(.solid) {
    fill: currentColor;
  }
  g :global(.faint) {
    stroke: var(--color-rule);
  }
</style>
