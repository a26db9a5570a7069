<!-- One machine on the bench: use at the left, the one thing to do, the reasons. What that is comes from core. -->
<script lang="ts">
  import type { BenchMachine } from '../../data/api'
  import { day, otherYear } from '../../ui/format'
  import { p } from '../../router'
  import Ruler from '../../ui/Ruler.svelte'
  import Reasons from './Reasons.svelte'
  import { again } from './bench'
  import SlipFoot from './SlipFoot.svelte'
  import SlipFront from './SlipFront.svelte'
  import SlipSingle from './SlipSingle.svelte'
  import UseKeys from './UseKeys.svelte'

  let {
    machine = $bindable(),
    generous = false,
    docked = false,
    onchanged,
  }: { docked?: boolean; machine: BenchMachine; generous?: boolean; onchanged: () => void } = $props()
  const due = $derived(machine.next)
  const front = $derived(machine.front)
  const zone = $derived(machine.zone)
  async function logged(today: BenchMachine['today']) {
    machine.today = today
    machine = (await again(machine.id)) ?? machine
    onchanged()
  }
</script>

<article class="slip" class:docked class:now={front.press} class:generous aria-label={machine.name}>
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
    <h3 class="title head-voice" class:text-act={front.press} class:small={!front.press}>
      {front.head}{generous && !front.press && due?.state === 'later' && !machine.laid_up ? ' until about' : ''}
    </h3>
    {#if machine.trouble}<p class="text-stop">
        <b>Something of its record cannot be read:</b>
        {machine.trouble}.
      </p>{/if}
    {#if machine.throw_away && !machine.open_run}<p><b>{machine.throw_away}</b></p>{/if}
    <SlipFront {machine} {generous} {docked} {onchanged} />
    {#if !front.unsafe && front.begin !== 'go_on'}<SlipFoot bind:machine {onchanged} />{/if}
  </div>

  <div class="why">
    {#if due}
      {#if due.clock}<Ruler clock={due.clock} {due} {zone} big={generous} machine={machine.id} />{/if}
      {#if machine.scale?.clock}
        {@const scale = machine.scale}
        <a
          href={p('/machines/:id/water', { params: { id: machine.id } })}
          class="label-voice mt-1 block hover:underline"
          >{scale.title.toLowerCase()}
          {scale.state === 'later'
            ? `around ${day(scale.likely, zone)} ${otherYear(scale.likely, zone)}`.trimEnd()
            : 'now'}</a
        >
        <Ruler clock={machine.scale.clock} due={scale} {zone} machine={machine.id} />
      {/if}
      {#if machine.sitting && !docked && !front.unsafe && front.begin !== 'go_on'}
        <p class="label-voice">Or one of them by itself: {due.title.toLowerCase()}</p>
        <SlipSingle {machine} {due} {generous} {onchanged} />
      {/if}
      {#if docked}
        <details class="text-[16px]">
          <summary class="linked text-act py-2">Why {due.now ? 'now' : 'then'}?</summary><Reasons {machine} {due} />
        </details>
      {:else if generous || due.state === 'unrecorded'}
        <div class="grid gap-2 text-[15px]" class:mt-3={generous}><Reasons {machine} {due} /></div>
      {/if}
    {/if}
  </div>
</article>

<style>
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
  @media (max-width: 1000px) {
    .generous {
      min-height: 0;
    }
  }
</style>
