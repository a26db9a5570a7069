<!-- A table from a file: chosen, its name stands on the key, its text is handed on. -->
<script lang="ts">
  let { onpick }: { onpick: (text: string) => void } = $props()
  let name = $state('')

  async function pick(input: HTMLInputElement) {
    const file = input.files?.[0]
    if (!file) return
    name = file.name
    onpick(await file.text())
  }
</script>

<label class="btn btn-outline btn-primary"
  >{name || 'Choose a CSV file'}<input
    class="sr-only"
    type="file"
    accept=".csv,text/csv,text/plain"
    onchange={(e) => pick(e.currentTarget)}
  /></label
>
