<!-- How brown the first discharge was: pictures that differ in shape. -->
<script lang="ts">
  import type { Schemas } from './api'
  import CupPicture from './CupPicture.svelte'

  let { first = $bindable() }: { first: Schemas['Press']['first'] } = $props()
  const grades = ['clear', 'pale', 'brown', 'dark'] as const
</script>

<div class="picks" role="radiogroup" aria-label="The first discharge">
  {#each grades as grade, i (grade)}
    <label class="pick">
      <input class="sr-only" type="radio" name="first" value={grade} bind:group={first} />
      <CupPicture what="colour" grade={i} />
      <b>{grade}</b>
    </label>
  {/each}
  <label class="pick">
    <input class="sr-only" type="radio" name="first" value="unseen" bind:group={first} />
    <span class="grid h-[72px] place-items-center text-[44px]" aria-hidden="true">–</span>
    <b>missed it</b>
  </label>
</div>

<style>
  .picks {
    display: grid;
    grid-template-columns: repeat(5, minmax(0, 150px));
  }
  .pick {
    display: grid;
    justify-items: center;
    min-height: 44px;
    padding: 12px 4px 10px;
    border: 2px solid currentColor;
    margin: 0 -2px -2px 0;
    font-stretch: 80%;
    cursor: pointer;
  }
  .pick:has(input:checked) {
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .pick:has(input:focus-visible) {
    outline: 4px solid var(--color-act);
    outline-offset: 2px;
    z-index: 1;
  }
  @media (max-width: 600px) {
    .picks {
      grid-template-columns: repeat(3, 1fr);
    }
  }
</style>
