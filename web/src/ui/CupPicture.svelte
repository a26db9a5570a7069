<!-- A cup with its colour, foam or grains, told apart by shape. -->
<script lang="ts">
  let { what, grade }: { what: 'colour' | 'foam' | 'grains'; grade: number } = $props()
  const id = $props.id()
  const gaps = [0, 13, 7, 3.4]
  const bubbles = [
    [],
    [
      [26, 34, 5],
      [46, 31, 7],
      [66, 35, 4],
    ],
    [
      [20, 33, 7],
      [33, 27, 9],
      [48, 31, 10],
      [63, 26, 8],
      [76, 33, 7],
      [40, 18, 6],
      [57, 16, 7],
    ],
  ]
  const counts = [0, 3, 8, 20]
  const grains = $derived(
    Array.from({ length: counts[grade] ?? 0 }, (_, i) => [
      24 + ((i * 37) % 46),
      80 - ((i * 17) % 11) - Math.floor(i / 8) * 6,
    ]),
  )
</script>

<svg viewBox="0 0 96 96" width="72" height="72" aria-hidden="true">
  {#if what === 'colour' && grade > 0}
    <defs
      ><pattern {id} width={gaps[grade]} height={gaps[grade]} patternUnits="userSpaceOnUse"
        ><circle cx={gaps[grade]! / 2} cy={gaps[grade]! / 2} r="1.7" fill="currentColor" /></pattern
      ></defs
    >
    <path d="M15 38H81L75 86H21z" fill="url(#{id})" />
  {/if}
  <path d="M12 22H84L76 88H20z" fill="none" stroke="currentColor" stroke-width="4" />
  <line x1="15" y1="38" x2="81" y2="38" stroke="currentColor" stroke-width="2.5" />
  {#if what === 'foam'}
    {#each bubbles[grade] ?? [] as [x, y, r], i (i)}<circle
        cx={x}
        cy={y}
        {r}
        fill="none"
        stroke="currentColor"
        stroke-width="2.5"
      />{/each}
  {:else if what === 'grains'}
    {#each grains as [x, y], i (i)}<rect {x} {y} width="4.5" height="4.5" fill="currentColor" />{/each}
  {/if}
</svg>
