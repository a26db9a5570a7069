<!-- How brown the first discharge was: pictures that differ in shape. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import CupPicture from '../../ui/CupPicture.svelte'

  let { first = $bindable() }: { first: Schemas['Press']['first'] } = $props()
  const grades = ['clear', 'pale', 'brown', 'dark'] as const
</script>

<div class="picks" role="radiogroup" aria-label="The first discharge">
  {#each grades as grade, i (grade)}
    <label class="picture-pick">
      <input class="sr-only" type="radio" name="first" value={grade} bind:group={first} />
      <CupPicture what="colour" grade={i} />
      <b>{grade}</b>
    </label>
  {/each}
  <label class="picture-pick">
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
  @media (max-width: 600px) {
    .picks {
      grid-template-columns: repeat(3, 1fr);
    }
  }
</style>
