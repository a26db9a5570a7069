<!-- One of a few, side by side under its head; pressed, it holds. -->
<script lang="ts" generics="T extends string">
  let {
    title,
    name,
    options,
    value,
    onpick,
  }: {
    title: string
    name: string
    options: readonly { id: T; text: string }[]
    value: T
    onpick: (id: T) => void
  } = $props()
</script>

<fieldset>
  <legend class="head-voice text-[24px]">{title}</legend>
  <div class="mt-2 flex flex-wrap pl-px">
    {#each options as o (o.id)}<label class="pick"
        ><input
          class="sr-only"
          type="radio"
          {name}
          checked={value === o.id}
          onchange={() => onpick(o.id)}
        />{o.text}</label
      >{/each}
  </div>
</fieldset>
