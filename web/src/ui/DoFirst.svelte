<!-- What to do before one leaves a machine, in its order. -->
<script lang="ts">
  let { list }: { list: string[] } = $props()
</script>

<ol class="mt-2 list-decimal pl-[1.2em] text-[19px] font-semibold">
  {#each list as d (d)}<li>{d}</li>{/each}
</ol>
