<!-- One machine of many: how far over, the next job by name, what it takes, and what may be done from here. -->
<script lang="ts">
  import type { BenchMachine } from '../../data/api'
  import { p } from '../../router'
  import Around from '../../ui/Around.svelte'
  import { amount, round } from '../../ui/format'
  import Begin from '../shared/Begin.svelte'
  import SmallOnes from '../shared/SmallOnes.svelte'
  import { again } from './bench'
  import TimesBar from './TimesBar.svelte'
  import UseKeys from './UseKeys.svelte'

  let {
    machine = $bindable(),
    ticked,
    full,
    ontick,
    onchanged,
  }: {
    machine: BenchMachine
    ticked: boolean
    full: boolean
    ontick: (on: boolean) => void
    onchanged: () => void
  } = $props()
  let open = $state(false)
  const m = $derived(machine)
  const due = $derived(m.next)
  const front = $derived(m.front)
  const takes = $derived(
    [
      m.sitting
        ? `${round(m.sitting.minutes)} min in one sitting`
        : m.wash && due?.doses
          ? `${round(m.wash.minutes)} min`
          : m.hands_min
            ? `${round(m.hands_min)} min`
            : '',
      m.wash?.dose && due?.doses
        ? `${amount(m.wash.dose.grams * Math.max(1, m.together.length), 'g')} of detergent`
        : (m.material ?? ''),
    ]
      .filter(Boolean)
      .join(', '),
  )
</script>

<li class="line" class:now={front.press}>
  <label class="tick"
    ><input
      type="checkbox"
      checked={ticked}
      disabled={full && !ticked}
      onchange={(e) => ontick(e.currentTarget.checked)}
    /><span class="sr-only">{m.name} into today's work</span></label
  >
  <div class="min-w-0">
    <a class="num-voice text-[19px] hover:underline" href={p('/machines/:id', { params: { id: m.id } })}>{m.name}</a
    >
    <div class="label-voice truncate">{[m.owner, m.place].filter(Boolean).join(', ')}</div>
  </div>
  <div class="min-w-0">
    <b class="head" class:text-stop={front.unsafe || due?.state === 'overdue'}>{front.name}</b>
    <div class="label-voice truncate">
      {#if front.says.length > 0}{front.says.join(' ')}{:else if due?.state === 'later'}<Around
          {due}
          zone={m.zone}
          machine={m.id}
        />{:else}{due?.says}{/if}
      {#if takes && !front.unsafe}· {takes}{/if}
    </div>
  </div>
  <div class="ruled">
    {#if due?.clock}<TimesBar clock={due.clock} {due} machine={m.id} />{/if}
  </div>
  <div class="flex justify-end gap-2">
    <button
      type="button"
      class="for-closer minor"
      aria-expanded={open}
      onclick={() => (open = !open)}
      aria-label="drinks of {m.name}">drinks</button
    >
    <div class="start"><Begin machine={m.id} {front} run={m.open_run?.id} short /></div>
  </div>
  {#if open}
    <div class="stub">
      <UseKeys
        machine={m}
        onlogged={async (today) => {
          machine.today = today
          machine = (await again(m.id)) ?? machine
          onchanged()
        }}
      />
      {#if m.small.length > 0 && !front.unsafe}<SmallOnes
          machine={m}
          onchanged={(changed) => (machine = changed)}
        />{/if}
    </div>
  {/if}
</li>

<style>
  .line {
    display: grid;
    grid-template-columns: 44px 230px minmax(0, 1fr) 300px 170px;
    gap: 4px 20px;
    align-items: center;
    padding: 4px 32px 4px 20px;
    background: var(--color-slip);
    border-bottom: 1px solid var(--color-rule);
  }
  .line.now {
    background: var(--color-act-soft);
  }
  .tick {
    display: grid;
    place-items: center;
    min-width: 44px;
    min-height: 44px;
    cursor: pointer;
  }
  .head {
    font-stretch: 75%;
    font-size: 19px;
    line-height: 1.1;
  }
  .start :global(.btn) {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    padding: 4px 14px;
    font-size: 16px;
    font-weight: 600;
    font-stretch: 78%;
  }
  .stub {
    grid-column: 2 / -1;
    max-width: 620px;
    padding-bottom: 10px;
  }
  @media (max-width: 1000px) {
    .line {
      grid-template-columns: 44px minmax(0, 1fr) auto;
      padding: 4px 20px 4px 8px;
      gap: 0 8px;
    }
    .ruled {
      display: none;
    }
    .line > :nth-child(3) {
      grid-column: 2 / -1;
      grid-row: 2;
    }
    .stub {
      grid-column: 1 / -1;
    }
  }
</style>
