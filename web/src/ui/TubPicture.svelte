<!-- The tub, filled as far as it is. -->
<script lang="ts">
  let { share }: { share: number } = $props()
  const id = $props.id()
  const top = $derived(216 - share * 192)
</script>

<svg viewBox="0 0 200 224" width="180" height="202" aria-hidden="true">
  <defs
    ><pattern {id} width="8" height="8" patternUnits="userSpaceOnUse"
      ><circle cx="4" cy="4" r="2" fill="currentColor" /></pattern
    ></defs
  >
  <rect x="12" y={top} width="136" height={216 - top} fill="url(#{id})" />
  <path d="M10 22V218H150V22" fill="none" stroke="currentColor" stroke-width="4" />
  <rect x="3" y="2" width="154" height="20" fill="none" stroke="currentColor" stroke-width="4" />
  <line x1="156" y1={top} x2="198" y2={top} stroke="var(--color-act)" stroke-width="4" />
</svg>
