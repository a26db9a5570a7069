<!-- Dangers where they apply; the first words of each are what must be read. In few words only those stand, and the rest opens. -->
<script lang="ts">
  import type { Schemas } from '../data/api'

  let { list, brief = false }: { list: Schemas['Caution'][]; brief?: boolean } = $props()
  const parts = (text: string) => /^(.*?[.:?])( .*)?$/.exec(text) ?? [text, text, '']
</script>

{#each list as c (c.text)}
  {@const [, first, rest] = parts(c.text)}
  {#if brief && rest}
    <details class="caution"><summary class="cursor-pointer"><b>{first}</b></summary>{rest}</details>
  {:else}
    <p class="caution"><b>{first}</b>{rest}</p>
  {/if}
{/each}
