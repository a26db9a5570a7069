<!-- The methods: their pulses, why, and what a wash takes by each; each may be practised. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import { groupParts, plainly, residue, round, worked } from '../../ui/format'
  import StartWash from '../shared/StartWash.svelte'

  let { schools }: { schools: Schemas['Schools'] } = $props()
  const s = $derived(schools)
</script>

<ul class="border-ink border-t-2">
  {#each s.methods as m (m.id)}
    <li class="method">
      <div>
        <b class="num-voice text-[20px]">{m.name}</b>
        <div class="text-[15px]">{m.pattern}</div>
      </div>
      <div class="text-[15px]">
        {m.why}
        {#if m.ours}<span class="label-voice">Our own choice: {m.ours}</span>{/if}{#if m.fits.verdict === 'refused'}
          <b class="text-stop">{m.fits.title}.</b>{/if}
      </div>
      <div class="text-right text-[16px]">
        {#if m.wash}
          {#if m.wash.dose}<Num worked={m.wash.dose.mass} text={worked(m.wash.dose.mass)} />,{/if}
          <Num worked={m.wash.minutes} text="{plainly(m.wash.minutes)} min" />
          {#if m.fits.verdict !== 'refused'}<div class="try">
              <StartWash
                machine={s.machine_id}
                parts={groupParts(s.groups)}
                method={m.id as Schemas['NewRun']['method']}
                text="Practise"
                practice
                line
              />
            </div>{/if}
          {#if m.wash.residue}<div>
              <Num worked={m.wash.rinse} text="{round(m.wash.rinse.value)} of water" /> leave <Num
                worked={m.wash.residue}
                text={residue(m.wash.residue)}
              />
            </div>{/if}
        {/if}
      </div>
    </li>
  {/each}
</ul>

<style>
  .try :global(.btn) {
    min-height: 44px;
    padding: 4px 14px;
    font-size: 15px;
    margin: 4px 0;
  }
  .method {
    display: grid;
    grid-template-columns: 300px 1fr 220px;
    gap: 6px 28px;
    padding: 10px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  @media (max-width: 1000px) {
    .method {
      grid-template-columns: 1fr;
    }
    .method > :last-child {
      text-align: left;
    }
  }
</style>
