<!-- A walk round a machine: one look a screen, the drawings are the answers, what follows stands beside them at once. -->
<script lang="ts">
  import { ask, client, newId, problemOf, type Problem, type Schemas } from '../../data/api'
  import { groupOf } from '../../ui/format'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'
  import WalkCard from './WalkCard.svelte'
  import WalkHalt from './WalkHalt.svelte'
  import WalkEnd from './WalkEnd.svelte'
  import WalkVerdict from './WalkVerdict.svelte'
  import { loadHazards, singleKeys } from '../../data/state.svelte'

  let w = $state<Schemas['Walk']>()
  let problem = $state<Problem>()
  let hot = $state<boolean>()
  let at = $state(0)
  let turned = $state('') // the posture that somebody said it has
  let chosen = $state('')
  let number = $state('')
  let judged = $state<Schemas['LookJudged']>()
  let taken = $state('') // what was taken last
  let asked = 0
  const id = $derived((route.params as { id?: string }).id ?? '')
  const card = $derived(w?.cards[at])
  const waits = $derived(card && card.posture !== 'untouched' && turned !== card.posture ? card.posture : undefined)
  const several = $derived((w?.groups ?? 1) > 1)

  async function load(of: string, is = true) {
    try {
      w = await ask(
        client.GET('/machines/{machine_id}/walk', { params: { path: { machine_id: of }, query: { hot: is } } }),
      )
      document.title = `Walk round, ${w.machine_name} · Fresh Anvil`
      problem = undefined
    } catch (error) {
      problem = problemOf(error)
    }
  }
  $effect(() => void load(id))

  async function begin(is: boolean) {
    await load(id, is)
    hot = is
    turned = is ? 'hot' : 'cold'
    const first = w?.cards.findIndex((c) => !c.fresh) ?? 0
    await go(first < 0 ? (w?.cards.length ?? 0) : first)
  }
  async function go(to: number) {
    if (w && to >= w.cards.length) await load(id, hot) // its end shows what was found
    at = Math.max(0, to)
    chosen = number = ''
    judged = problem = undefined
    asked++
  }
  // what a look comes to, as it would be put on record now
  async function judge() {
    const mine = ++asked
    if (!card || (!chosen && !number)) return (judged = undefined)
    try {
      const typed = number ? Number(number.replace(',', '.')) : undefined
      const query = { part: card.part, ...(typed !== undefined ? { number: typed } : { verdict: chosen }) }
      const got = await ask(
        client.GET('/machines/{machine_id}/walk/{sight}', {
          params: { path: { machine_id: id, sight: card.sight }, query },
        }),
      )
      if (mine !== asked) return
      judged = got
      chosen = got.verdict
      problem = undefined
    } catch (error) {
      if (mine !== asked) return
      judged = undefined
      problem = problemOf(error)
    }
  }
  async function choose(verdict: string) {
    chosen = verdict
    number = ''
    await judge()
  }
  // by a key, what is as it should be is taken at once: there is nothing to read about it
  async function choseByKey(verdict: string) {
    await choose(verdict)
    if (judged?.verdict === verdict && judged.finding.verdict === 'fine') await take()
  }
  async function take() {
    if (!card) return
    if (!judged) await judge()
    if (!judged) return
    const name = `${card.title}${several && groupOf(card.part) > 0 ? `, group ${groupOf(card.part)}` : ''}: ${judged.text.toLowerCase()}`
    const look = {
      id: newId(),
      sight: card.sight,
      part: card.part,
      verdict: judged.verdict,
      at: new Date().toISOString(),
      ...(number && { number: Number(number.replace(',', '.')) }),
    }
    const stops = judged.stops
    try {
      await ask(client.POST('/machines/{machine_id}/looks', { params: { path: { machine_id: id } }, body: look }))
      await loadHazards()
      if (stops) await load(id, hot)
      else await go(at + 1)
      taken = name
    } catch (error) {
      problem = problemOf(error)
    }
  }
  async function back(look: string) {
    try {
      await ask(
        client.DELETE('/machines/{machine_id}/looks/{look_id}', {
          params: { path: { machine_id: id, look_id: look } },
          parseAs: 'text',
        }),
      )
      await Promise.all([load(id, hot), loadHazards()])
    } catch (error) {
      problem = problemOf(error)
    }
  }
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
    if (hot === undefined) {
      if (event.key !== '1' && event.key !== '2') return
      event.preventDefault()
      return void begin(event.key === '1')
    }
    if (!card || w?.stopped) return
    if (event.key === 'Enter' && !(event.target as HTMLElement).closest('a, button')) {
      event.preventDefault()
      if (waits) turned = waits
      else if (chosen || number) void take()
      else void go(at + 1)
    } else if (!typing && !waits) {
      const answer = card.answers[Number(event.key) - 1]
      if (!answer && event.key !== '0' && event.key !== 'Backspace') return
      event.preventDefault() // or it is typed into the next card's field
      if (answer) void choseByKey(answer.verdict)
      else void go(event.key === '0' ? at + 1 : at - 1)
    }
  }
  const heading = $derived(waits === 'cold' ? 'Now switch it off and let it cool' : 'Now switch it on')
</script>

<svelte:window onkeydown={key} />
<div class="flex grow flex-col">
  {#if problem && !card}<div class="p-8"><ProblemNote {problem} /></div>{/if}
  {#if w}
    {#if w.stopped && hot !== undefined}
      <WalkHalt walk={w} machine={id} onback={back} />
    {:else if hot === undefined}
      <div class="p-4 sm:p-8">
        <p class="label-voice">
          <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{w.machine_name}</a> ·
          walk round, {w.cards.length} looks
        </p>
        <h1 class="huge-voice mt-1 text-[clamp(40px,6vw,72px)]">How does it stand there now?</h1>
        <div class="mt-6 flex flex-wrap gap-4">
          <button type="button" class="btn btn-primary start" onclick={() => begin(true)}
            ><span class="opacity-70">1</span> On, and at its heat</button
          >
          <button type="button" class="btn btn-primary start" onclick={() => begin(false)}
            ><span class="opacity-70">2</span> Off, unplugged and cold</button
          >
        </div>
        <p class="mt-6 max-w-2xl">
          What can be seen as it stands comes first. In the middle it is switched off and cools, or is switched on; you
          may leave there and go on within twelve hours. A torch, dry paper, a jug with marks and a clear cup are all
          it takes.
        </p>
        {#if w.cards.some((c) => c.last)}<div class="mt-8"><WalkEnd walk={w} /></div>{/if}
      </div>
    {:else if !card}
      <div class="p-4 sm:p-8"><WalkEnd walk={w} done /></div>
    {:else if waits}
      <div class="p-4 sm:p-8">
        <p class="label-voice">{w.machine_name} · walk round, {at} of {w.cards.length} looked at</p>
        <h1 class="huge-voice mt-1 text-[clamp(40px,6vw,72px)]">{heading}</h1>
        {#if waits === 'cold'}<p class="mt-4 max-w-2xl text-[20px]">
            Switch it off, pull the plug, and let it cool below 45 °C, the gauge at 0. The rest is looked at cold. A
            boiler of a litre takes about four hours, a large one overnight; go on whenever it is cold.
          </p>
        {:else}<p class="mt-4 max-w-2xl text-[20px]">
            Everything back in its place, the tank full, dry hands: plug it in and switch it on. The rest is looked at
            when it is at its heat.
          </p>{/if}
        <div class="mt-6 flex flex-wrap gap-4">
          <!-- svelte-ignore a11y_autofocus -->
          <button type="button" class="btn btn-primary start" onclick={() => (turned = waits)}
            >{waits === 'cold' ? 'It is cold: go on' : 'It is at its heat: go on'}</button
          >
          <button type="button" class="btn btn-outline start" onclick={() => go(w?.cards.length ?? 0)}
            >Later: what was found</button
          >
        </div>
      </div>
    {:else}
      <div class="walk">
        <WalkCard
          walk={w}
          {card}
          {at}
          {chosen}
          bind:number
          onjudge={judge}
          onchoose={(verdict) => (chosen === verdict && judged ? take() : choose(verdict))}
          onphoto={choose}
        />
        <aside>
          {#if problem}<ProblemNote {problem} />{/if}
          <WalkVerdict machine={id} {judged} trend={card.trend} worse={card.worse} />
          <div class="act">
            {#if judged}<b class="said" aria-hidden="true">{judged.finding.title}</b>{/if}
            <button type="button" class="btn btn-primary take" disabled={!judged} onclick={take}
              >{judged?.stops ? 'Record it, and stop' : 'Take it, next part'}</button
            >
            <button type="button" class="btn btn-outline btn-primary take" onclick={() => go(at + 1)}
              >Can’t tell</button
            >
          </div>
          <div class="mt-3 grid gap-2">
            {#if at > 0}<p>
                <button
                  type="button"
                  class="min-h-11 cursor-pointer underline underline-offset-4"
                  onclick={() => go(at - 1)}>Back one</button
                >{#if taken}<span class="label-voice ml-3">Taken: {taken}</span>{/if}
              </p>{/if}
            <p class="label-voice max-md:hidden">
              {card.measure
                ? 'Type the number, Enter takes it; Enter with nothing typed: can’t tell.'
                : `1 to ${card.answers.length} chooses; what is as it should be is taken at once, the rest by Enter. 0: can’t tell. Backspace: back one.`}
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
