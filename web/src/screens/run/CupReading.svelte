<script lang="ts">
  import type { Schemas } from '../../data/api'
  import CupPicture from '../../ui/CupPicture.svelte'
  import PhotoCup from '../shared/PhotoCup.svelte'

  let { cup = $bindable() }: { cup: Partial<Schemas['Cup']> } = $props()
  const rows = [
    {
      what: 'colour',
      title: 'Colour',
      grades: [
        ['clear', 'clear'],
        ['pale', 'pale'],
        ['brown', 'brown'],
        ['dark', 'dark'],
      ],
    },
    {
      what: 'foam',
      title: 'Foam',
      grades: [
        ['none', 'none'],
        ['some', 'some'],
        ['much', 'much'],
      ],
    },
    {
      what: 'grains',
      title: 'Grains',
      grades: [
        ['0', 'none'],
        ['1-3', '1 to 3'],
        ['4-10', '4 to 10'],
        ['more', 'more'],
      ],
    },
  ] as const
</script>

<div class="grid gap-3">
  {#each rows as row (row.what)}
    <fieldset class="row">
      <legend class="num-voice text-[24px]">{row.title}</legend>
      <div class="picks">
        {#each row.grades as [grade, text], i (grade)}
          <label class="picture-pick">
            <input
              class="sr-only"
              type="radio"
              name={row.what}
              value={grade}
              checked={cup[row.what] === grade}
              onchange={() => (cup = { ...cup, [row.what]: grade })}
            />
            <CupPicture what={row.what} grade={i} />
            <b>{text}</b>
          </label>
        {/each}
      </div>
    </fieldset>
  {/each}
  <PhotoCup ontake={(s) => (cup = { ...cup, colour: s.colour, ...(s.grains && { grains: s.grains }) })} />
</div>

<style>
  .row legend {
    margin-bottom: 2px;
  }
  .picks {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 150px));
  }
</style>
