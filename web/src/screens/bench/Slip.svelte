<!-- One machine on the bench: use at the left, the one job, the reasons. -->
<script lang="ts">
  import type { BenchMachine, Standing } from '../../data/api'
  import Around from '../../ui/Around.svelte'
  import Ask from '../../ui/Ask.svelte'
  import { again } from './bench'
  import DoneBefore from '../shared/DoneBefore.svelte'
  import {
    amount,
    clock,
    day,
    groupOf,
    groupParts,
    inWords,
    otherYear,
    round,
    stamp,
    theMachine,
  } from '../../ui/format'
  import DoseWords from '../../ui/DoseWords.svelte'
  import { navigate, p } from '../../router'
  import Lead from '../shared/Lead.svelte'
  import Ruler from '../../ui/Ruler.svelte'
  import SpoonPicture from '../../ui/SpoonPicture.svelte'
  import SmallOnes from '../shared/SmallOnes.svelte'
  import StartWash from '../shared/StartWash.svelte'
  import UseKeys from './UseKeys.svelte'
  import VoidRun from '../shared/VoidRun.svelte'

  let {
    machine = $bindable(),
    generous = false,
    docked = false,
    onchanged,
  }: { docked?: boolean; machine: BenchMachine; generous?: boolean; onchanged: () => void } = $props()
  const due = $derived(machine.next)
  const zone = $derived(machine.zone)
  const sour = $derived(machine.hazards.some((h) => h.chemical === 'acid'))
  const dirty = $derived(machine.hazards.some((h) => h.chemical !== 'pressure'))
  const pressed = $derived(machine.hazards.filter((h) => h.chemical === 'pressure'))
  const stopped = $derived(machine.hazards.some((h) => h.chemical === 'stopped'))
  const refused = $derived(machine.gate.verdict === 'refused')
  async function logged(today: BenchMachine['today']) {
    machine.today = today
    machine = (await again(machine.id)) ?? machine
    onchanged()
  }
  const pressing = $derived(machine.hazards.length > 0 || machine.open_run !== undefined || due?.now === true)
  const title = $derived.by(() => {
    if (machine.open_run)
      return machine.open_run.unreadable ? machine.open_run.title : `${machine.open_run.title} under way`
    if (machine.rescue) return machine.rescue.title
    if (pressed.length > 0 && !sour) return `Free ${inWords([pressed[0]!.part])}`
    if (dirty) return sour ? 'Rinse the acid out' : 'Rinse the detergent out'
    if (machine.laid_up && due?.state === 'later') return 'Laid up'
    if (!due) return 'Nothing to do'
    if (machine.sitting) return machine.sitting.head
    return due.state === 'later' && generous ? `${due.head} until about` : due.head
  })
</script>

{#snippet already(of: Standing, parts?: string[])}
  <details>
    <summary class="fold">Already done</summary><DoneBefore
      machine={machine.id}
      due={of}
      {parts}
      onrecorded={onchanged}
    />
  </details>
{/snippet}
{#snippet reasons(of: Standing)}
  {#if !dirty && !machine.open_run}<p>{of.why}</p>{/if}
  {#if of.last}<p class="text-ink-2">{of.begun ? 'Counted from' : 'Last done'} {stamp(of.last, zone)}.</p>{/if}
{/snippet}

{#snippet single(due: Standing)}
  {#if due.doses && machine.wash?.dose}
    {@const wash = machine.wash}
    {#if due.state === 'later'}
      {#if generous}<p class="huge-voice text-[clamp(56px,8vw,104px)]">{day(due.likely, zone)}</p>{/if}
      <p>
        Detergent wash <Around {due} {zone} machine={machine.id} />.
      </p>
    {:else}
      <div class="dose">
        {#if generous}
          {#if !wash.dose!.pinch}<SpoonPicture spoon={wash.dose!.spoon} height={150} />{/if}
          <span class="huge-voice text-[84px]"><DoseWords dose={wash.dose!} /></span>
        {/if}
      </div>
      <p>
        <b
          ><Ask
            machine={machine.id}
            text={wash.dose!.form === 'tablets'
              ? 'one tablet'
              : wash.dose!.pinch
                ? 'a pinch'
                : amount(wash.dose!.grams, 'g')}
            of={(m) => m.plan.wash?.dose?.mass}
          /></b
        >{machine.groups > 1 ? ' a group' : ''}, {round(wash.minutes)} minutes.
        {due.says}
        {#if due.daily && !due.now}About <b
            ><Ask
              machine={machine.id}
              text={clock(due.likely, zone)}
              of={(m) => m.plan.dues.find((d) => d.task === due.task && d.part === due.part)?.days}
            /></b
          >.{/if}
      </p>
      <div class="flex flex-wrap gap-3">
        <StartWash
          machine={machine.id}
          parts={machine.together}
          text={due.state === 'unrecorded'
            ? 'Start the first wash'
            : machine.together.length > 1
              ? `Start the wash, ${inWords(machine.together)}`
              : 'Start the wash'}
          line={!due.now || machine.sitting !== undefined}
        />
        {#if machine.together.length > 1}<StartWash
            machine={machine.id}
            parts={[due.part]}
            text="Group {groupOf(due.part)} only"
            line
          />{/if}
      </div>
    {/if}
    {#if due.state === 'unrecorded'}{@render already(due)}{/if}
  {:else}
    <p>
      {#if due.state === 'later'}
        {due.title} <Around {due} {zone} machine={machine.id} />.
      {:else}
        {due.says}
        {due.how}
        {#if due.clock?.kind === 'scale'}<a
            class="underline underline-offset-4"
            href={p('/machines/:id/water', { params: { id: machine.id } })}>What the water does</a
          >{/if}
      {/if}
    </p>
    {#if due.state !== 'later' && due.way === 'plan'}<a
        class="btn btn-primary self-start"
        class:btn-outline={machine.sitting}
        href={p('/machines/:id/descale', { params: { id: machine.id } })}>See the descale card</a
      >{/if}
    {#if due.state !== 'later' && due.way === 'lead' && !due.doses}<Lead
        machine={machine.id}
        {due}
        parts={machine.together.length > 0 ? machine.together : [due.part]}
        line={machine.sitting !== undefined}
      />{/if}
    {#if due.state !== 'later'}{@render already(due, machine.together)}{/if}
  {/if}
{/snippet}

<article class="slip" class:docked class:now={pressing} class:generous aria-label={machine.name}>
  {#if !docked}<div class="stub">
      <h2 class="num-voice text-[21px] leading-tight max-[1000px]:text-[17px]">
        <a class="hover:underline" href={p('/machines/:id', { params: { id: machine.id } })}>{machine.name}</a>
      </h2>
      <div class="label-voice">
        {[
          machine.name !== machine.layout_title && machine.layout_title.toLowerCase(),
          machine.groups > 1 && `${machine.groups} groups`,
        ]
          .filter(Boolean)
          .join(', ')}
      </div>
      <UseKeys {machine} onlogged={logged} />
    </div>{/if}

  <div class="care">
    {#if docked}<h2 class="num-voice text-[19px]">
        <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id: machine.id } })}
          >{machine.name}</a
        >
      </h2>
    {:else}<div class="num-voice text-[19px] min-[1001px]:hidden">{machine.name}</div>{/if}
    <h3 class="title head-voice" class:text-act={pressing} class:small={!pressing}>{title}</h3>
    {#each machine.rescue && !machine.open_run ? [] : pressed as h (h.part)}<p class="text-stop">
        <b>{h.text}.</b>
      </p>{/each}
    {#if machine.trouble}<p class="text-stop">
        <b>Something of its record cannot be read:</b>
        {machine.trouble}.
      </p>{/if}
    {#if machine.throw_away && !machine.open_run}<p><b>{machine.throw_away}</b></p>{/if}
    {#if machine.open_run?.unreadable}
      <p>Its plan cannot be read any more. End it by name; what is in the machine stays on record.</p>
      <VoidRun run={machine.open_run.id} onended={onchanged} />
    {:else if machine.open_run}
      <p>
        In {machine.open_run.where}.{sour
          ? ' Acid is in: finish the rinse.'
          : dirty
            ? ' Detergent is in: finish the rinse.'
            : ''}
      </p>
      {@const run = machine.open_run.id}
      <button
        type="button"
        class="btn btn-primary self-start"
        onclick={() => navigate('/machines/:id/runs/:run', { params: { id: machine.id, run } })}
        >Go back to the run</button
      >
    {:else if machine.rescue}
      {#each machine.rescue.because as r}<p>{r.text}</p>{/each}
      {#each machine.rescue.next ?? [] as n}<p><b>{n}</b></p>{/each}
      <a class="btn btn-primary self-start" href={p('/machines/:id', { params: { id: machine.id } })}
        >See the machine</a
      >
    {:else if sour}
      <p>Acid was left in. No drinks before the strip matches the water that goes in. Heater off, an outlet open.</p>
      <StartWash machine={machine.id} parts={[theMachine]} task="descale" text="Start the rinse" />
    {:else if pressed.length > 0}
      <p>Leave the handle where it is. It is freed cold, step by step.</p>
      <StartWash
        machine={machine.id}
        parts={[pressed[0]!.part]}
        task="unblock"
        text="Free {inWords([pressed[0]!.part])}"
      />
    {:else if dirty && machine.wash}
      <p>
        Detergent was left in {inWords(machine.together)}.
        <b
          ><Ask
            machine={machine.id}
            text="{round(machine.wash.rinse)} water pulses"
            of={(m) => m.plan.wash?.rinse}
          /></b
        >, {round(machine.wash.minutes)} minutes. No drinks before.
      </p>
      <StartWash machine={machine.id} parts={machine.together} text="Start the rinse" />
    {:else if due}
      {#if machine.laid_up}<p>
          <b>Do not switch it on: its water is shut off, or its tank is empty.</b>
          <a class="underline underline-offset-4" href={p('/machines/:id/rest', { params: { id: machine.id } })}
            >Visits and return</a
          >
        </p>{/if}
      {#if machine.sitting}
        {@const sitting = machine.sitting}
        <p>
          In one sitting: about <b
            ><Ask machine={machine.id} text="{round(sitting.minutes)} minutes" of={(m) => m.sittings[0]?.minutes} /></b
          >
          of your time, <Ask
            machine={machine.id}
            text="{round(sitting.alone)} one by one"
            of={(m) => m.sittings[0]?.alone}
          />.
        </p>
        {#if sitting.runs > 0}<a
            class="btn btn-primary self-start"
            href={sitting.apart
              ? `${p('/today')}?machine=${machine.id}`
              : p('/machines/:id/sitting', { params: { id: machine.id } })}>See the work sheet</a
          >{/if}
        {#if docked}<p class="label-voice mt-2">Or one of them by itself: {due.title.toLowerCase()}.</p>{/if}
      {/if}
      {#if !machine.sitting || docked}{@render single(due)}{/if}
      {#if machine.evening}
        {@const e = machine.evening}
        <p>
          All of tonight that is led: <Ask
            machine={machine.id}
            text="{round(e.minutes)} minutes"
            of={(m) => m.evening?.minutes}
          />, of it {round(e.hands_min)} with your hands; done about <b>{clock(e.end_at, zone)}</b>.
          <a class="underline underline-offset-4" href={p('/machines/:id/close', { params: { id: machine.id } })}
            >Tonight's close</a
          >
        </p>
      {/if}
      <div class="foot">
        {#if machine.small.length > 0}<SmallOnes
            {machine}
            onchanged={(m) => {
              machine = m
              onchanged()
            }}
          />{/if}
        <a
          class="text-ink-2 narrow inline-flex min-h-11 items-center text-[16px] underline underline-offset-4"
          href={p('/machines/:id/diagnose', { params: { id: machine.id } })}>Something is wrong</a
        >
        <a
          class="text-ink-2 narrow inline-flex min-h-11 items-center text-[16px] underline underline-offset-4"
          href={p('/machines/:id/walk', { params: { id: machine.id } })}>Walk round it</a
        >
        {#if !refused && !stopped && !machine.laid_up}
          <details>
            <summary class="text-ink-2 narrow min-h-11 cursor-pointer py-2 text-[16px]"
              >No water comes from a group</summary
            >
            <p>
              Dried detergent, a coil, or a blocked jet. You are led from the least to the most, and told when to stop.
              Behind a handle that is locked in the water may be under pressure: leave it where it is.
            </p>
            {#each groupParts(machine.groups) as part (part)}
              {@const of = machine.groups > 1 ? `Group ${groupOf(part)}: the` : 'The'}
              <div class="mt-2 flex flex-wrap gap-3">
                <StartWash
                  machine={machine.id}
                  parts={[part]}
                  task="unblock"
                  more={{ locked_in: true }}
                  text="{of} handle is locked in"
                  line
                />
                <StartWash
                  machine={machine.id}
                  parts={[part]}
                  task="unblock"
                  more={{ locked_in: false }}
                  text="{of} handle is out"
                  line
                />
              </div>
            {/each}
          </details>
        {/if}
      </div>
      {#if refused}
        <details class="caution mt-1">
          <summary class="cursor-pointer py-1"><b>{machine.gate.title}</b></summary>
          {#each machine.gate.because as r}<p>{r.text}</p>{/each}
          {#each machine.gate.next ?? [] as n}<p>{n}</p>{/each}
        </details>
      {/if}
    {/if}
  </div>

  <div class="why">
    {#if due}
      {#if due.clock}<Ruler clock={due.clock} {due} {zone} big={generous} machine={machine.id} />{/if}
      {#if machine.scale}
        {@const scale = machine.scale}
        {#if scale.clock}
          <a
            href={p('/machines/:id/water', { params: { id: machine.id } })}
            class="label-voice mt-1 block hover:underline"
            >{scale.title.toLowerCase()}
            {scale.state === 'later'
              ? `around ${day(scale.likely, zone)} ${otherYear(scale.likely, zone)}`.trimEnd()
              : 'now'}</a
          >
          <Ruler clock={scale.clock} due={scale} {zone} machine={machine.id} />
        {/if}
      {/if}
    {/if}
    {#if due && machine.sitting && !docked && !machine.open_run && machine.hazards.length === 0}
      <p class="label-voice">Or one of them by itself: {due.title.toLowerCase()}</p>
      {@render single(due)}
    {/if}
    {#if due && docked}
      <details class="text-[16px]">
        <summary class="fold">Why {due.now ? 'now' : 'then'}?</summary>{@render reasons(due)}
      </details>
    {:else if due && (generous || due.state === 'unrecorded')}
      <div class="grid gap-2 text-[15px]" class:mt-3={generous}>{@render reasons(due)}</div>
    {/if}
  </div>
</article>

<style>
  .fold {
    min-height: 44px;
    padding: 8px 0;
    color: var(--color-act);
    text-decoration: underline;
    text-underline-offset: 4px;
    cursor: pointer;
  }
  .foot {
    display: flex;
    flex-wrap: wrap;
    align-items: start;
    gap: 0 24px;
  }
  .foot :global(details[open]) {
    flex-basis: 100%;
  }
  /* on a phone the one button is as wide as the thumb reaches */
  .docked .care > :global(.btn),
  .docked .care > :global(div > .btn:first-child) {
    width: 100%;
    min-height: 60px;
    font-size: 20px;
  }
  .title {
    font-size: 38px;
  }
  .title.small {
    font-size: 30px;
  }
  .generous {
    min-height: 560px;
  }
  .generous .title {
    font-size: clamp(44px, 6vw, 76px);
  }
  .generous .title.small {
    font-size: clamp(28px, 3vw, 40px);
  }
  .dose {
    display: flex;
    align-items: center;
    gap: 32px;
  }
  .generous .dose {
    margin: 14px 0;
  }
  @media (max-width: 1000px) {
    .generous {
      min-height: 0;
    }
  }
</style>
