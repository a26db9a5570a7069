<!-- A year of this machine's use, with a post for each wash: the same ruler for every school. -->
<script lang="ts">
  let { days, strong = false }: { days: number; strong?: boolean } = $props()
  const id = $props.id()
  const posts = $derived(
    Array.from({ length: Math.floor(365 / Math.max(1, days)) }, (_, i) => (((i + 1) * days) / 365) * 100),
  )
</script>

<svg class:text-act={strong} aria-hidden="true">
  <line x1="0" y1="21" x2="100%" y2="21" stroke="var(--color-rule)" />
  {#if days < 3}
    <defs
      ><pattern {id} width="4" height="14" patternUnits="userSpaceOnUse"
        ><path d="M1 0v14" stroke="currentColor" stroke-width="2" /></pattern
      ></defs
    >
    <rect y="7" width="100%" height="14" fill="url(#{id})" />
  {:else}
    {#each posts as at (at)}
      <line
        x1="{at}%"
        y1="3"
        x2="{at}%"
        y2="21"
        stroke="currentColor"
        stroke-width={days < 6 ? 1.6 : strong ? 3.5 : 2.5}
      />
    {/each}
  {/if}
</svg>

<style>
  svg {
    display: block;
    width: 100%;
    height: 22px;
  }
</style>
