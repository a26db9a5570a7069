<!-- Something that is there when it is wanted: a heading, and what is under it once it is pressed. -->
<script lang="ts">
  import type { Snippet } from 'svelte'

  let {
    title,
    note = '',
    whose,
    open = $bindable(false),
    children,
  }: { title: string; note?: string; whose?: 'closer' | 'keeper'; open?: boolean; children: Snippet } = $props()
</script>

<details class={['fold', whose && `for-${whose}`]} bind:open>
  <summary
    ><h2>{title}</h2>
    {#if note}<span>{note}</span>{/if}</summary
  >
  {#if open}<div class="inside">{@render children()}</div>{/if}
</details>

<style>
  .fold {
    border-top: 1px solid var(--color-rule);
  }
  summary {
    position: relative;
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 0 14px;
    min-height: 48px;
    padding: 9px 0 9px 32px;
    cursor: pointer;
    list-style: none;
  }
  summary::before {
    content: '+';
    position: absolute;
    left: 0;
    font-weight: 800;
    font-size: 22px;
    line-height: 1;
    color: var(--color-act);
  }
  .fold[open] > summary::before {
    content: '–';
  }
  h2 {
    font-stretch: 72%;
    font-weight: 700;
    font-size: 22px;
    line-height: 1.1;
  }
  summary span {
    font-stretch: 78%;
    color: var(--color-ink-2);
  }
  .inside {
    padding: 4px 0 22px;
  }
</style>
