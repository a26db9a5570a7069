<!-- Begins a led task. What is not anybody's asks first for the name of who records to be entitled to it. -->
<script lang="ts">
  import type { Due, Schemas, Standing } from '../../data/api'
  import StartWash from './StartWash.svelte'

  let {
    machine,
    due,
    parts,
    line = false,
    text = 'Lead me',
  }: {
    machine: string
    due: Pick<Due | Standing, 'task' | 'whose'>
    parts: string[]
    line?: boolean
    text?: string
  } = $props()
  let name = $state('')
  const task = $derived(due.task as Schemas['NewRun']['task'])
</script>

{#if due.whose === 'entitled'}
  <details>
    <summary class="linked py-2 font-semibold">Lead a technician</summary>
    <p class="max-w-xl">
      Only for whoever the maker or the trade names: a mistake here lets a boiler run dry, overfill or leak under
      pressure. Who is led says so by name, and it stays in the log.
    </p>
    <label class="mt-2 block font-semibold"
      >Name of who is entitled <input class="ml-2" maxlength="40" bind:value={name} /></label
    >
    {#if name.trim()}<div class="mt-3">
        {#key name}<StartWash
            {machine}
            {parts}
            {task}
            more={{ entitled: name.trim() }}
            text="I am entitled: lead me"
          />{/key}
      </div>{/if}
  </details>
{:else}
  <StartWash {machine} {parts} {task} {text} {line} />
{/if}
