<!-- Dangers where they apply; the first words of each are what must be read. -->
<script lang="ts">
  import type { Schemas } from '../data/api'

  let { list }: { list: Schemas['Caution'][] } = $props()
  const parts = (text: string) => /^(.*?[.:?])( .*)?$/.exec(text) ?? [text, text, '']
</script>

{#each list as c (c.text)}
  {@const [, first, rest] = parts(c.text)}
  <p class="caution"><b>{first}</b>{rest}</p>
{/each}
