<!-- The lines of a file that cannot be taken: each with what stands there and what is allowed. -->
<script lang="ts">
  import { figure } from './format'

  type Bad = { line: number; field: string; value: string; allowed: string }
  let { list }: { list: Bad[] } = $props()
  const few = 12
</script>

<p class="caution">
  <b>{figure(list.length)} {list.length === 1 ? 'line' : 'lines'} cannot be taken, so nothing is.</b>
</p>
<ul class="mt-1 text-[16px]">
  {#each list.slice(0, few) as b, i (i)}<li>
      <b>{b.line ? `line ${b.line}` : 'the file'}</b>, {b.field}: {b.value || 'nothing'}. Allowed: {b.allowed}.
    </li>{/each}
</ul>
{#if list.length > few}<p>and {figure(list.length - few)} more.</p>{/if}
