<!-- What the clock leads: pulses and pushes, what stands, and an absence. -->
<script lang="ts">
  import Num from '../../ui/Num.svelte'
  import { clock, inHours, weekday } from '../../ui/format'
  import CoolingWait from './CoolingWait.svelte'
  import Found from './Found.svelte'
  import { minutes, type Stage } from './stage.svelte'

  let { s }: { s: Stage } = $props()
  const live = $derived(s.live)
  const run = $derived(s.run!)
  const step = $derived(s.step!)
</script>

{#if run.absence}
  <h1 class="huge-voice soak" class:text-stop={s.ringing >= 0}>
    {s.ringing >= 0 ? 'Time to be back' : 'Called away'}
  </h1>
  <div class="pulse">
    <span
      class="seconds wide huge-voice"
      class:wider={Math.abs(s.awayLeft) >= 600}
      data-away={s.awayLeft.toFixed(0)}>{s.ringing >= 0 ? `+${minutes(-s.awayLeft)}` : minutes(s.awayLeft)}</span
    >
  </div>
  <div>
    {#each run.absence.do as d (d)}<p class="say mt-1">{d}</p>{/each}
  </div>
{:else if s.pulsing && !s.cut}
  <h1 class="sr-only">{step.head}</h1>
  <div class="pulse">
    <span class="word huge-voice">{s.on ? 'ON' : 'OFF'}</span>
    <span class="seconds huge-voice" class:wide={s.seconds > 9} data-left={live.left.toFixed(3)}>{s.seconds}</span>
  </div>
  <div>
    <div class="bar">
      <div style:width="{(s.ownPace ? Math.min(1, live.since / s.part) : live.gone) * 100}%"></div>
    </div>
    <div class="under">
      <span
        >{s.pushing
          ? step.title
          : s.on
            ? 'pump on, pressure building'
            : 'the valve vents: this is what cleans'}</span
      >
      <b class="num-voice whitespace-nowrap"
        >{#if s.ownPace}at least {s.part} s{:else}next: {s.pushing
            ? run.schedule.length > 1
              ? 'the pump rests'
              : 'off'
            : s.on
              ? `OFF ${step.off_s} s`
              : live.segment?.pulse === step.pulses
                ? 'done'
                : `ON ${step.on_s} s`}{/if}</b
      >
    </div>
  </div>
{:else if s.soaking && !s.cut}
  {#if run.finding && !s.resting}<Found {s} />{/if}
  <h1 class="huge-voice soak">{s.resting ? 'Pump rests' : step.kind === 'sips' ? 'Off: it stands' : step.head}</h1>
  {#if s.longWait && live.segment?.ends_at}
    <div>
      <p class="until huge-voice" data-left={live.left.toFixed(3)}>{clock(live.segment.ends_at, run.zone)}</p>
      <p class="say">
        {weekday(live.segment.ends_at, run.zone)}, in {inHours(live.left)}{#if step.length}: <Num
            worked={step.length}
            text="how that comes about"
          />{/if}.
      </p>
      {#if run.descale}<CoolingWait machine={run.machine_id} zone={run.zone} since={live.segment.starts_at} />{/if}
    </div>
  {:else}
    <div class="pulse">
      <span
        class="seconds wide huge-voice"
        class:wider={live.left >= 600 || run.descale}
        data-left={live.left.toFixed(3)}>{minutes(live.left)}</span
      >
    </div>
  {/if}
  <div>
    <div class="bar"><div style:width="{live.gone * 100}%"></div></div>
    {#if s.resting}
      <p class="say mt-2">
        It has run nearly as long as it may. Leave it off; {s.pushing
          ? 'then the pump goes on again'
          : 'the next pulse begins'} by itself.
      </p>
    {:else if step.kind === 'sips'}
      <p class="say mt-1">
        {#if step.pulses !== 1}Sip {live.segment?.pulse} of {step.pulses}.
        {/if}The machine is off. {live.segment?.pulse === step.pulses
          ? 'The next step follows.'
          : 'Be ready: ON comes by itself.'}
      </p>
    {:else}
      {#each step.do as d (d)}<p class="say mt-1">{d}</p>{/each}
    {/if}
  </div>
{/if}
