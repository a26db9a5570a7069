<!-- A technician's own way: who records by name to be entitled to a trade machine. -->
<script lang="ts">
  let { entitled = $bindable() }: { entitled: string } = $props()
  let typed = $state('')
</script>

<section class="mt-5 max-w-4xl">
  <h2 class="head-voice text-[26px]">A technician's own way</h2>
  {#if entitled}
    <p>
      <b>{entitled}</b> records to be entitled to descale this machine. It stays in the log.
      <button type="button" class="linked" onclick={() => (entitled = '')}>Not so</button>
    </p>
  {:else}
    <p>
      A trade machine is a pressure vessel. It is led only for who is entitled to it by the maker or the local code,
      and only where the model of it clears the plan.
    </p>
    <form
      class="mt-2 flex flex-wrap gap-3"
      onsubmit={(e) => {
        e.preventDefault()
        entitled = typed.trim()
      }}
    >
      <input
        class="w-64"
        maxlength="40"
        bind:value={typed}
        aria-label="Name of who is entitled"
        placeholder="your name"
      />
      <button class="btn btn-outline btn-primary" disabled={!typed.trim()}>I am entitled to it</button>
    </form>
  {/if}
</section>
