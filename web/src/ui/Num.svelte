<!-- A computed number. It opens to how it was worked out. -->
<script lang="ts">
  import type { Worked } from '../data/api'
  import { worked as written } from './format'
  import { open } from '../data/state.svelte'

  let { worked, text, limit }: { worked: Worked; text?: string; limit?: string } = $props()
  const shown = $derived(text ?? written(worked))
</script>

<button
  type="button"
  class="num"
  onclick={() => open(worked, limit)}
  aria-label={`${shown}: ${worked.name}, how it was worked out`}>{shown}</button
>
