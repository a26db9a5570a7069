<!-- One look of a walk: the drawings are the answers, a number may be typed, a photo may propose. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Cautions from '../../ui/Cautions.svelte'
  import Num from '../../ui/Num.svelte'
  import { groupOf } from '../../ui/format'
  import SightPicture from '../../ui/sights/SightPicture.svelte'
  import PhotoCup from '../shared/PhotoCup.svelte'

  let {
    walk,
    card,
    at,
    chosen,
    number = $bindable(),
    onjudge,
    onchoose,
    onphoto,
  }: {
    walk: Schemas['Walk']
    card: Schemas['Walk']['cards'][number]
    at: number
    chosen: string
    number: string
    onjudge: () => void
    onchoose: (verdict: string) => void
    onphoto: (verdict: string) => void
  } = $props()
  const m = $derived(card.measure)
  const group = $derived(groupOf(card.part))
  function focused(node: HTMLElement) {
    node.focus({ preventScroll: true })
  }
</script>

<section class="looks">
  <p class="label-voice">
    {walk.machine_name}{walk.groups > 1 && group > 0 ? `, group ${group}` : ''} · walk round, {at + 1} of {walk
      .cards.length}
  </p>
  {#key at}<h1 class="huge-voice text-[clamp(32px,4.6vw,54px)] outline-none" tabindex="-1" use:focused>
      {card.ask}
    </h1>{/key}
  {#if m}
    <div class="measure">
      {#key at}<label class="label-voice text-ink"
          >{m.ask}
          <input
            use:focused
            class="num-voice"
            inputmode="decimal"
            autocomplete="off"
            size="6"
            bind:value={number}
            oninput={onjudge}
          /></label
        >{/key}
      {#if m.expected}<span>The model expects about <Num worked={m.expected} />.</span>{/if}
      <span class="label-voice">Or press what is nearest.</span>
    </div>
  {/if}
  <div class="cards">
    {#each card.answers as a, n (a.verdict)}
      <button type="button" class="card" aria-pressed={chosen === a.verdict} onclick={() => onchoose(a.verdict)}>
        <span class="drawn"><SightPicture sight={card.sight} verdict={a.verdict} /></span>
        <span class="name"
          ><span>{a.text}</span>{#if !m}<span class="text-ink-2">{n + 1}</span>{/if}</span
        >
      </button>
    {/each}
  </div>
  <div class="how">
    {#each card.how as text (text)}<p>{text}</p>{/each}
    <Cautions list={card.cautions} />
    {#if card.sight === 'cup' || card.sight === 'discharge'}
      {@const sight = card.sight}
      {#key at}<PhotoCup button="Choose that card" ontake={(s) => onphoto(s.looks[sight])} />{/key}
    {/if}
  </div>
</section>

<style>
  .looks {
    padding: 18px 32px 24px;
  }
  .cards {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(min(46%, 240px), 1fr));
    gap: 12px;
    margin-top: 14px;
  }
  .card {
    display: flex;
    flex-direction: column;
    border: 1.5px solid var(--color-ink);
    text-align: left;
    cursor: pointer;
  }
  .card[aria-pressed='true'] {
    outline: 4px solid var(--color-act);
    outline-offset: -3px;
    background: var(--color-act-soft);
  }
  .drawn {
    width: min(100%, 200px);
    margin: 0 auto;
    padding: 10px 6px 2px;
  }
  .name {
    display: flex;
    gap: 10px;
    justify-content: space-between;
    margin-top: auto;
    padding: 6px 12px 10px;
    font-stretch: 78%;
    font-weight: 650;
    line-height: 1.2;
  }
  .measure {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 20px;
    align-items: center;
    margin-top: 10px;
  }
  .measure input {
    height: 56px;
    width: 130px;
    margin-left: 8px;
    border: 2px solid var(--color-ink);
    font-size: 30px;
  }
  .how {
    max-width: 760px;
    margin-top: 14px;
  }
  @media (max-width: 800px) {
    .looks {
      padding: 14px 16px 16px;
    }
    .drawn {
      width: 116px;
      padding-top: 6px;
    }
  }
</style>
