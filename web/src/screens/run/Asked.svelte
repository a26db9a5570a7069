<!-- A step that waits for a hand: something to do, to mix, to look at, to choose or to measure. -->
<script lang="ts">
  import DoseWords from '../../ui/DoseWords.svelte'
  import Num from '../../ui/Num.svelte'
  import PartPicture from '../../ui/PartPicture.svelte'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'
  import CupReading from './CupReading.svelte'
  import FirstDischarge from './FirstDischarge.svelte'
  import Found from './Found.svelte'
  import Mixed from './Mixed.svelte'
  import type { Stage } from './stage.svelte'
  import StripReading from './StripReading.svelte'
  import Words from './Words.svelte'

  let { s }: { s: Stage } = $props()
  const run = $derived(s.run!)
  const step = $derived(s.step!)
</script>

<div class="middle">
  {#if run.finding}
    <Found {s} />
  {/if}
  {#if step.mix}
    <Mixed {s} mix={step.mix} />
  {:else if s.cut}
    <h1 class="huge-voice big">No power</h1>
  {:else if step.doses && run.wash.dose}
    <div class="flex flex-wrap items-center gap-x-12 gap-y-4">
      <h1 class="huge-voice dose"><DoseWords dose={run.wash.dose} /></h1>
      {#if !run.wash.dose.pinch}<SpoonPicture spoon={run.wash.dose.spoon} height={240} />{/if}
    </div>
    <p class="head-voice text-[44px]">
      {#if run.wash.dose.form === 'powder'}<Num worked={run.wash.dose.mass} /> in the blind{:else}in the blind, for <Num
          worked={run.wash.dose.mass}
        />{/if}
    </p>
  {:else if run.segment.kind === 'held' && s.pressed > 0}
    <p class="say">Pulse {run.segment.pulse} does not count.</p>
  {:else if run.segment.kind === 'held' && step.kind === 'pulses'}
    <h1 class="huge-voice big">Held</h1>
    <p class="say">Pulse {run.segment.pulse} does not count; it comes again.</p>
  {:else}
    <h1 class="huge-voice big" class:smaller={step.kind === 'look' || step.kind === 'choose'}>{step.head}</h1>
  {/if}
  {#if step.picture && !s.cut}<PartPicture name={step.picture} />{/if}
  {#if run.empty_tray}<p class="say text-stop"><b>Empty the tray first.</b> It would overflow.</p>{/if}
  {#if run.fill_tank}<p class="say text-stop"><b>Fill the tank first.</b> The pump would draw air.</p>{/if}
  {#if s.allowed('reading')}
    <p class="say">
      Rinsed <b>{run.detergent.rinsed}</b> times, of at least
      <b><Num worked={run.wash.rinse} text={String(run.detergent.least)} /></b>. The cup has the last word.
    </p>
    <p class="text-[19px] max-[1000px]:order-1">{step.do.join(' ')}</p>
    <CupReading bind:cup={s.cup} />
  {:else if s.allowed('measured') && step.reads}
    {#each step.do as d (d)}<p class="say">{d}</p>{/each}
    {#key `${step.id} ${run.segment.index}`}<StripReading
        reads={step.reads}
        pads={step.pads ?? []}
        feed={run.descale?.feed_ph}
        bind:strip={s.strip}
      />{/key}
  {:else if s.allowed('heard')}
    <ol class="say do">
      {#each step.do as d (d)}<li>{d}</li>{/each}
    </ol>
    <div class="grid gap-2" role="radiogroup" aria-label={step.head}>
      {#each step.ways ?? [] as way, n (way.what)}
        <label class="hear"
          ><input class="sr-only" type="radio" name="heard" value={way.what} bind:group={s.what} /><b
            class="nr"
            aria-hidden="true">{n + 1}</b
          >{way.text}</label
        >
      {/each}
    </div>
    {#if s.way?.means}<p class="say" role="status">
        {#if s.way.bad}<b>{s.way.means}</b>{:else}{s.way.means}{/if}
      </p>{/if}
  {:else if s.allowed('graded')}
    <p class="say">{step.do[0]}</p>
    <FirstDischarge bind:first={s.first} />
    {#each step.do.slice(1) as d (d)}<p class="say">{d}</p>{/each}
  {:else if !(run.segment.kind === 'held') && !s.cut}
    <Words {s} />
  {/if}
  {#if s.allowed('begin') && step.kind === 'pulses' && s.pressed === 0}
    <label class="say flex min-h-11 items-center gap-3"
      ><input type="checkbox" bind:checked={s.own} /> at my own pace: each ON and OFF when I press</label
    >
  {/if}
  <Words {s} only="dangers" />
</div>
