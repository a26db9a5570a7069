<!-- A number: one that is often said, by a press; any other, typed. -->
<script lang="ts">
  import Choice from '../../ui/Choice.svelte'

  let {
    name,
    label,
    wide,
    value = $bindable(),
    options,
    picked,
  }: {
    name: string
    label: string
    wide: number
    value: number | null
    options: { id: number; title: string }[]
    picked: () => void
  } = $props()
</script>

<div class="count">
  <Choice
    {name}
    label="Often said"
    {wide}
    bind:value={() => value ?? undefined, (v) => (value = v ?? null)}
    {options}
    onpick={picked}
  />
  <label class="typed"
    >or<input
      type="number"
      inputmode="decimal"
      min="0"
      max="2000"
      step="any"
      bind:value
      aria-label={label}
    /></label
  >
</div>

<style>
  .count {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    align-items: center;
    gap: 12px;
    max-width: 640px;
  }
  .typed {
    display: flex;
    align-items: center;
    gap: 10px;
  }
  input {
    width: 150px;
    height: 74px;
    font-size: 44px;
    font-stretch: 66%;
    font-weight: 800;
  }
  @media (max-width: 700px) {
    .count {
      grid-template-columns: minmax(0, 1fr);
    }
  }
</style>
