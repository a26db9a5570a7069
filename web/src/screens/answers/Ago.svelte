<!-- When something was last done, as somebody remembers it: about how long ago, on a day, or not known. -->
<script lang="ts">
  import Choice from '../../ui/Choice.svelte'

  let { label, day = $bindable() }: { label: string; day: string } = $props()
  const ago = [
    { id: '', title: "don't know" },
    { id: '7', title: 'a week ago' },
    { id: '30', title: 'a month ago' },
    { id: '91', title: '3 months ago' },
    { id: 'day', title: 'on a day' },
  ] as const
  let about = $state('')
  function pick(id: string) {
    if (id === '') day = ''
    if (Number(id) > 0) {
      const then = new Date()
      then.setDate(then.getDate() - Number(id))
      const two = (n: number) => String(n).padStart(2, '0')
      day = `${then.getFullYear()}-${two(then.getMonth() + 1)}-${two(then.getDate())}`
    }
  }
</script>

<div class="mt-4">
  <p class="mb-1 font-semibold">{label}</p>
  <Choice
    name={label}
    wide={100}
    bind:value={
      () => about,
      (v) => {
        about = v ?? ''
        pick(about)
      }
    }
    options={ago}
  />
  {#if about === 'day'}<input class="mt-2" type="date" bind:value={day} aria-label="{label} on" />{/if}
</div>
