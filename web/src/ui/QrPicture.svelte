<!-- A QR code by its rows, dark on light in either theme: readers want it so. -->
<script lang="ts">
  let { rows, label }: { rows: string[]; label: string } = $props()
  const path = $derived(
    rows.map((r, y) => [...r].map((c, x) => (c === '#' ? `M${x} ${y}h1v1h-1z` : '')).join('')).join(''),
  )
</script>

<svg viewBox="0 0 {rows.length} {rows.length}" role="img" aria-label={label} shape-rendering="crispEdges">
  <rect width={rows.length} height={rows.length} fill="#fff" />
  <path d={path} fill="#000" />
</svg>

<style>
  svg {
    display: block;
    width: min(100%, 300px);
    forced-color-adjust: none;
  }
</style>
