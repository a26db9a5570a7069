<!-- Dangers where they apply, whole in few words too: nothing here decides what of a danger may be left out. -->
<script lang="ts">
  import type { Schemas } from '../data/api'

  let { list }: { list: Schemas['Caution'][] } = $props()
  const parts = (text: string) => /^(.*?[.:?])( .*)?$/.exec(text) ?? [text, text, '']
</script>

{#each list as c (c.text)}
  {@const [, first, rest] = parts(c.text)}
  <p class="caution"><b>{first}</b>{rest}</p>
{/each}
