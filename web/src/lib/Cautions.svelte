<script lang="ts">
  import type { Schemas } from './api'

  let { list }: { list: Schemas['Caution'][] } = $props()
  const heads: Record<Schemas['Caution']['danger'], string> = { scald: 'Hot.', pressure: 'Under pressure.', poison: 'Not for drinking.', break: 'Breaks.' }
</script>

{#each list as c (c.text)}
  <p class="caution"><b>{heads[c.danger]}</b> {c.text.replace(/^Not for drinking\. /, '')}</p>
{/each}
