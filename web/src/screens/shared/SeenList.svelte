<!-- What was found, what it means and moves. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { groupOf, weekday } from '../../ui/format'
  import { p } from '../../router'

  let {
    list,
    groups,
    zone,
    machine,
    ontake,
  }: { machine?: string; list: Schemas['Found'][]; groups: number; zone?: string; ontake?: (id: string) => void } =
    $props()
  const sorted = $derived([...list].sort((a, b) => Number(b.bad) - Number(a.bad)))
</script>

<ul class="border-ink border-t-2">
  {#each sorted as f (f.id)}
    <li class="found" class:bad={f.bad}>
      <b class="num-voice">{f.title}{groups > 1 && groupOf(f.part) > 0 ? `, group ${groupOf(f.part)}` : ''}</b>
      <div>
        <b>{f.number ? `${f.number}: ` : ''}{f.text}.</b>
        {f.means}{' '}{#if f.symptom && machine}<a
            class="underline underline-offset-4"
            href="{p('/machines/:id/diagnose', { params: { id: machine } })}?symptom={f.symptom}"
            >Look for the cause</a
          >{/if}{#if zone}{' '}<span class="label-voice">{weekday(f.at, zone)}</span>{/if}
      </div>
      {#if ontake}<button type="button" class="for-closer minor take" onclick={() => ontake(f.id)}
          >Undo<span class="sr-only">: {f.title}, {f.text}</span></button
        >{/if}
    </li>
  {/each}
</ul>

<style>
  .found {
    display: grid;
    grid-template-columns: 190px 1fr auto;
    gap: 4px 16px;
    align-items: baseline;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
    font-size: 17px;
  }
  .found > .num-voice {
    font-size: 19px;
  }
  .bad > .num-voice::before {
    content: '!';
    display: inline-block;
    width: 1.3em;
    margin-right: 0.4em;
    background: var(--color-ink);
    color: var(--color-paper);
    text-align: center;
  }
  @media (max-width: 700px) {
    .found {
      grid-template-columns: 1fr;
    }
    .take {
      justify-self: start;
    }
  }
</style>
