<!-- What is done together in the next months, in the order of work, and why. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { day, groupOf, round } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import { p } from '../../router'
  import StartWash from './StartWash.svelte'

  let {
    list,
    zone,
    groups,
    machine,
    busy,
  }: { list: Schemas['SittingShown'][]; zone: string; groups: number; machine: string; busy: boolean } = $props()
  let all = $state(false)
  const shown = $derived(all ? list : list.slice(0, 4))
</script>

<ol class="border-ink border-t-2">
  {#each shown as s (s.at)}
    <li class="sitting">
      <div>
        <b class="num-voice text-[21px]">{s.now ? 'Now' : day(s.at, zone)}</b><span class="label-voice block"
          ><Num worked={s.minutes} text={`about ${round(s.minutes.value)} min`} />
          with laying out{#if s.members.length > 1};
            <Num worked={s.alone} text={`${round(s.alone.value)} one by one`} />{/if}</span
        >
      </div>
      <ul>
        {#each s.members as m (m.task + m.part)}
          <li>
            <b>{m.title}{groups > 1 && groupOf(m.part) > 0 ? `, group ${groupOf(m.part)}` : ''}</b
            >{#if m.because.text !== 'Due.'}{' '}<span class="label-voice">{m.because.text}</span>{/if}
          </li>
        {/each}
      </ul>
      {#if s.now && !busy && s.led.length > 0}
        {@const tasks = s.led}
        <div class="start">
          <StartWash
            {machine}
            parts={tasks[0]!.parts}
            task={tasks[0]!.task as Schemas['NewRun']['task']}
            more={{ with: tasks.slice(1) }}
            text="Start the sitting"
            line
          />
          <a
            class="inline-flex min-h-11 items-center underline underline-offset-4"
            href={p('/machines/:id/sitting', { params: { id: machine } })}>Work sheet</a
          >
          {#if tasks.length < new Set(s.members.map((m) => m.task)).size}<a
              class="inline-flex min-h-11 items-center underline underline-offset-4"
              href="{p('/today')}?machine={machine}">With the descale, in order</a
            >{/if}
        </div>
      {/if}
    </li>
  {/each}
</ol>
{#if list.length > 4}<button type="button" class="linked mt-2" onclick={() => (all = !all)}
    >{all ? 'Fewer' : `All ${list.length}`}</button
  >{/if}

<style>
  .sitting {
    display: grid;
    grid-template-columns: 150px 1fr;
    gap: 4px 16px;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .start {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 20px;
    align-items: center;
    margin-top: 6px;
    grid-column: 2;
  }
  @media (max-width: 500px) {
    .start {
      grid-column: 1;
    }
    .sitting {
      grid-template-columns: 1fr;
    }
  }
</style>
