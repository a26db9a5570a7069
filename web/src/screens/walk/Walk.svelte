<!-- A walk round a machine: one look a screen, the drawings are the answers, what follows stands beside them at once.
     -->
<script lang="ts">
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import WalkCard from './WalkCard.svelte'
  import WalkHalt from './WalkHalt.svelte'
  import WalkEnd from './WalkEnd.svelte'
  import WalkVerdict from './WalkVerdict.svelte'
  import { singleKeys } from '../../data/state.svelte'
  import { Round } from './walk.svelte'

  const id = $derived((route.params as { id?: string }).id ?? '')
  const round = new Round(() => id)
  $effect(() => void round.load())
  const w = $derived(round.walk)
  const card = $derived(round.card)
  const waits = $derived(round.waits)
  const judged = $derived(round.judged)
  function key(event: KeyboardEvent) {
    if (!singleKeys.on) return
    const typing = event.target instanceof HTMLInputElement
    if (
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      (event.target as HTMLElement).closest('dialog[open], select, textarea')
    )
      return
    if (round.hot === undefined) {
      if (event.key !== '1' && event.key !== '2') return
      event.preventDefault()
      return void round.begin(event.key === '1')
    }
    if (!card || w?.stopped) return
    if (event.key === 'Enter' && !(event.target as HTMLElement).closest('a, button')) {
      event.preventDefault()
      if (waits) round.turned = waits
      else if (round.chosen || round.number) void round.take()
      else void round.go(round.at + 1)
    } else if (!typing && !waits) {
      const answer = card.answers[Number(event.key) - 1]
      if (!answer && event.key !== '0' && event.key !== 'Backspace') return
      event.preventDefault() // or it is typed into the next card's field
      if (answer) void round.choseByKey(answer.verdict)
      else void round.go(event.key === '0' ? round.at + 1 : round.at - 1)
    }
  }
  const heading = $derived(waits === 'cold' ? 'Now switch it off and let it cool' : 'Now switch it on')
</script>

<svelte:window onkeydown={key} />
<div class="flex grow flex-col">
  {#if !card}<div class="px-8"><ProblemNote problem={round.problem} /></div>{/if}
  {#if w}
    {#if w.stopped && round.hot !== undefined}
      <WalkHalt walk={w} machine={id} onback={round.back} />
    {:else if round.hot === undefined}
      <div class="p-4 sm:p-8">
        <p class="label-voice">
          <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{w.machine_name}</a>
          · walk round, {w.cards.length} looks
        </p>
        <h1 class="huge-voice mt-1 text-[clamp(40px,6vw,72px)]">How does it stand there now?</h1>
        <div class="mt-6 flex flex-wrap gap-4">
          <button type="button" class="btn btn-primary start" onclick={() => round.begin(true)}
            ><span class="opacity-70">1</span> On, and at its heat</button
          >
          <button type="button" class="btn btn-primary start" onclick={() => round.begin(false)}
            ><span class="opacity-70">2</span> Off, unplugged and cold</button
          >
        </div>
        <p class="mt-6 max-w-2xl">
          What can be seen as it stands comes first. In the middle it is switched off and cools, or is switched on;
          you may leave there and go on within twelve hours. A torch, dry paper, a jug with marks and a clear cup
          are all it takes.
        </p>
        {#if w.cards.some((c) => c.last)}<div class="mt-8"><WalkEnd walk={w} /></div>{/if}
      </div>
    {:else if !card}
      <div class="p-4 sm:p-8"><WalkEnd walk={w} done /></div>
    {:else if waits}
      <div class="p-4 sm:p-8">
        <p class="label-voice">{w.machine_name} · walk round, {round.at} of {w.cards.length} looked at</p>
        <h1 class="huge-voice mt-1 text-[clamp(40px,6vw,72px)]">{heading}</h1>
        {#if waits === 'cold'}<p class="mt-4 max-w-2xl text-[20px]">
            Switch it off, pull the plug, and let it cool below 45 °C, the gauge at 0. The rest is looked at cold. A
            boiler of a litre takes about four hours, a large one overnight; go on whenever it is cold.
          </p>
        {:else}<p class="mt-4 max-w-2xl text-[20px]">
            Everything back in its place, the tank full, dry hands: plug it in and switch it on. The rest is looked
            at when it is at its heat.
          </p>{/if}
        <div class="mt-6 flex flex-wrap gap-4">
          <!-- svelte-ignore a11y_autofocus -->
          <button type="button" class="btn btn-primary start" onclick={() => (round.turned = waits)}
            >{waits === 'cold' ? 'It is cold: go on' : 'It is at its heat: go on'}</button
          >
          <button type="button" class="btn btn-outline start" onclick={() => round.go(w?.cards.length ?? 0)}
            >Later: what was found</button
          >
        </div>
      </div>
    {:else}
      <div class="walk">
        <WalkCard
          walk={w}
          {card}
          at={round.at}
          chosen={round.chosen}
          bind:number={round.number}
          onjudge={round.judge}
          onchoose={(verdict) => (round.chosen === verdict && judged ? round.take() : round.choose(verdict))}
          onphoto={round.choose}
        />
        <aside>
          <ProblemNote problem={round.problem} />
          <WalkVerdict machine={id} {judged} trend={card.trend} worse={card.worse} />
          <div class="act">
            {#if judged}<b class="said" aria-hidden="true">{judged.finding.title}</b>{/if}
            <button type="button" class="btn btn-primary take" disabled={!judged} onclick={round.take}
              >{judged?.stops ? 'Record it, and stop' : 'Take it, next part'}</button
            >
            <button type="button" class="btn btn-outline btn-primary take" onclick={() => round.go(round.at + 1)}
              >Can’t tell</button
            >
          </div>
          <div class="mt-3 grid gap-2">
            {#if round.at > 0}<p>
                <button type="button" class="linked" onclick={() => round.go(round.at - 1)}>Back one</button
                >{#if round.taken}<span class="label-voice ml-3">Taken: {round.taken}</span>{/if}
              </p>{/if}
            <p class="label-voice max-md:hidden">
              {card.measure
                ? 'Type the number, Enter takes it; Enter with nothing typed: can’t tell.'
                : `1 to ${card.answers.length} chooses; what is as it should be is taken at once, the rest by Enter. ` +
                  '0: can’t tell. Backspace: back one.'}
            </p>
          </div>
        </aside>
      </div>
    {/if}
  {/if}
</div>

<style>
  .start {
    min-height: 72px;
    font-size: 21px;
  }
  .walk {
    display: grid;
    flex-grow: 1;
    grid-template-columns: minmax(0, 1fr) minmax(330px, 400px);
  }
  aside {
    padding: 26px 28px;
    border-left: 2px dashed var(--color-rule);
    background: var(--color-slip);
  }
  .act {
    display: grid;
    gap: 16px;
    margin-top: 24px;
  }
  .said {
    display: none;
  }
  .take {
    min-height: 52px;
    font-size: 19px;
  }
  @media (max-width: 800px) {
    .walk {
      display: flex;
      flex-direction: column;
    }
    aside {
      display: contents; /* so that the buttons stick to the screen's edge, not to its part of the page */
    }
    aside > :global(*) {
      padding: 0 16px;
    }
    .act {
      position: sticky;
      bottom: 0;
      grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
      order: 9;
      gap: 6px 12px;
      margin: auto 0 0;
      padding: 8px 16px 12px;
      border-top: 1.5px solid var(--color-ink);
      background: var(--color-slip);
    }
    .said {
      display: block;
      grid-column: 1 / -1;
    }
  }
</style>
