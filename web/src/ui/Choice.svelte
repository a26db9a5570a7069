<!-- One of several answers, each a key to press. A pointer or Enter picks; arrow keys only move, as in any list of
     radio buttons. -->
<script lang="ts" generics="T extends string | number | boolean">
  import type { Snippet } from 'svelte'

  type Option = { id: T; title: string; sign?: string }
  let {
    name,
    options,
    value = $bindable(),
    wide = 150,
    label,
    picture,
    onpick,
  }: {
    name: string
    options: readonly Option[]
    value: T | undefined
    wide?: number
    label?: string
    picture?: Snippet<[Option]>
    onpick?: (id: T) => void
  } = $props()
</script>

<div class="keys" style:--wide="{wide}px" role="radiogroup" aria-label={label ?? name}>
  {#each options as o (o.id)}
    <label class="key" class:drawn={picture}>
      <input
        class="sr-only"
        type="radio"
        {name}
        value={o.id}
        bind:group={value}
        onclick={(e) => {
          if (e.detail === 0) return
          value = o.id
          onpick?.(o.id)
        }}
        onkeydown={(e) => {
          if (e.key === 'Enter') {
            e.preventDefault()
            value = o.id
            onpick?.(o.id)
          }
        }}
      />
      {@render picture?.(o)}
      <span class="words"
        ><b>{o.title}</b>{#if o.sign}<span>{o.sign}</span>{/if}</span
      >
    </label>
  {/each}
</div>

<style>
  .keys {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(min(100%, var(--wide)), 1fr));
    padding: 0.75px;
  }
  .key {
    position: relative;
    display: flex;
    align-items: center;
    gap: 12px;
    min-height: 54px;
    padding: 8px 12px;
    border: 1.5px solid var(--color-ink);
    margin: -0.75px;
    cursor: pointer;
    background: var(--color-slip);
  }
  .words {
    display: flex;
    flex-direction: column;
    min-width: 0;
  }
  .key b {
    font-stretch: 78%;
    font-size: 18px;
    line-height: 1.15;
  }
  .key .words > span {
    font-size: 14px;
    font-stretch: 85%;
    color: var(--color-ink-2);
    line-height: 1.25;
  }
  .key:has(input:checked) {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .key:has(input:checked) span {
    color: inherit;
  }
  .key:has(input:focus-visible) {
    outline: 3px solid var(--color-act);
    outline-offset: 2px;
    z-index: 1;
  }
</style>
