<!-- One of the questions, with its keys. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Choice from '../../ui/Choice.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import MachineDrawing from '../../ui/MachineDrawing.svelte'
  import { hardnessUnits as units, treatments } from '../../ui/format'
  import type { Given, Question } from './answers.svelte'
  import Ago from './Ago.svelte'
  import HowMany from './HowMany.svelte'

  let { given, question, onpicked }: { given: Given; question: Question; onpicked?: () => void } = $props()
  const titles: Record<Question, string> = {
    layout: 'How is it built?',
    valve: 'Has it a three-way valve?',
    drinks: 'Drinks a day, in all?',
    milk: 'How many of them with milk?',
    hardness: 'How hard is the water?',
    treatment: 'What treats the water?',
    before: 'Is it new?',
    since: 'From when on?',
    end: 'What do you call it?',
  }
  const number: Partial<Record<Question, string>> = {
    layout: '1',
    drinks: '2',
    milk: '3',
    hardness: '4',
    treatment: '5',
  }
  const valves = [
    { id: 'yes', title: 'Yes' },
    { id: 'no', title: 'No' },
    { id: 'cannot_tell', title: "Can't tell" },
  ] as const
  // numbers that are often said; any other is typed
  const often = $derived(
    given.sign && given.sign.scheme.groups > 1 ? [100, 200, 300, 400, 600] : [1, 2, 3, 4, 6, 8],
  )
  const milks = $derived([...new Set([0, Math.round((given.drinks ?? 0) / 2), given.drinks ?? 0])])
  const told = $derived(
    question === 'end' || question === 'since'
      ? undefined
      : given.at(
          {
            layout: 'layout',
            valve: 'valve',
            drinks: 'drinks_per_day',
            milk: 'milk_drinks_per_day',
            hardness: 'hardness',
            treatment: 'treatment',
            before: 'before',
          }[question],
        ),
  )
  const picked = () => onpicked?.()
</script>

<section class="question" role="group" aria-labelledby="q-{question}">
  <h2 id="q-{question}" tabindex="-1">
    {#if number[question]}<span class="no">{number[question]}</span>{/if}
    {titles[question]}
  </h2>
  {#if question === 'layout'}
    <Choice
      name="layout"
      label={titles.layout}
      wide={onpicked ? 340 : 310}
      bind:value={given.layout}
      onpick={() => ((given.said = undefined), picked())}
      options={given.signs.map((s) => ({ id: s.layout, title: s.title, sign: `${s.sees} ${s.hears}` }))}
    >
      {#snippet picture(o)}
        <span class="drawn"
          ><MachineDrawing small scheme={given.signs.find((s) => s.layout === o.id)!.scheme} /></span
        >
      {/snippet}
    </Choice>
    {#if !onpicked && given.sign?.valve === 'yes'}
      <details class="mt-2">
        <summary class="min-h-11 cursor-pointer py-2"
          >Its group has a three-way valve, as all of this layout. Not this one?</summary
        >
        <Choice name="other-valve" label={titles.valve} bind:value={given.said} options={valves} />
      </details>
    {/if}
  {:else if question === 'valve'}
    <p class="mb-2">Listen when the pump stops: a hiss and a gush into the tray is the valve.</p>
    <Choice name="valve" label={titles.valve} bind:value={given.said} options={valves} onpick={picked} />
    {#if given.said === 'cannot_tell'}<p class="mt-2 text-[15px]">
        That counts as no until you know. Pull a shot and stop the pump: a hiss, a gush and a fairly dry puck mean
        yes; silence and a soupy puck mean no.
      </p>{/if}
  {:else if question === 'drinks'}
    <HowMany
      name="drinks-often"
      label="Drinks a day"
      wide={48}
      bind:value={given.drinks}
      options={often.map((n) => ({ id: n, title: String(n) }))}
      {picked}
    />
  {:else if question === 'milk'}
    <HowMany
      name="milk-often"
      label="Milk drinks a day"
      wide={64}
      bind:value={given.milk}
      options={milks.map((n) => ({
        id: n,
        title: n === 0 ? 'none' : n === given.drinks ? `all ${n}` : `about ${n}`,
      }))}
      {picked}
    />
  {:else if question === 'hardness'}
    <Choice
      name="known"
      label={titles.hardness}
      bind:value={given.known}
      options={[
        { id: true, title: 'I have a reading' },
        { id: false, title: "I don't know" },
      ]}
      onpick={(id) => id === false && picked()}
    />
    {#if given.known}
      <div class="mt-3 flex flex-wrap items-end gap-3">
        <!-- svelte-ignore a11y_autofocus -->
        <input
          class="big"
          type="number"
          inputmode="decimal"
          min="0"
          step="any"
          bind:value={given.hardness}
          aria-label="Hardness"
          autofocus={!!onpicked}
        />
        <select class="h-[74px] text-[18px]" bind:value={given.unit} aria-label="Unit of hardness">
          {#each units as u (u.id)}<option value={u.id}>{u.text}</option>{/each}
        </select>
      </div>
    {/if}
  {:else if question === 'treatment'}
    <Choice
      name="treatment"
      label={titles.treatment}
      wide={165}
      bind:value={given.treatment}
      options={(Object.entries(treatments) as [Schemas['Answers']['treatment'], string][]).map(([id, title]) => ({
        id,
        title,
      }))}
      onpick={picked}
    />
  {:else if question === 'before'}
    <Choice
      name="new"
      label={titles.before}
      wide={200}
      bind:value={given.isNew}
      options={[
        { id: true, title: 'It is new', sign: 'every clock counts from today' },
        { id: false, title: 'It was used before', sign: 'say what you know' },
      ]}
      onpick={(id) => id === true && picked()}
    />
    {#if given.isNew === false}
      <Ago label="Last washed" bind:day={given.washed} />
      <Ago label="Last descaled" bind:day={given.descaled} />
      {#if given.plan?.renews}<Ago
          label={given.plan.renews === 'regenerate' ? 'Softener regenerated' : 'Filter changed'}
          bind:day={given.changed}
        />{/if}
    {/if}
  {:else if question === 'since'}
    <label class="flex flex-wrap items-center gap-3"
      ><span class="font-semibold">It was like that since</span>
      <input class="date" type="date" bind:value={given.since} /></label
    >
    <p class="mt-2 text-[15px]">
      {given.since
        ? 'That corrects the past: from that day on it is worked out anew.'
        : 'Left empty, the answers hold from now on, and what was before stays as it was.'}
    </p>
  {:else if !given.machine}
    <input
      class="name"
      maxlength="80"
      bind:value={given.name}
      aria-label={titles.end}
      placeholder={given.sign?.title}
    />
  {/if}
  <ProblemNote problem={told} take={(m) => given.take(question, m.value)} />
</section>

<style>
  .question {
    margin-top: 22px;
    border-top: 2px solid var(--color-ink);
    padding-top: 10px;
  }
  h2 {
    margin-bottom: 10px;
    font-stretch: 70%;
    font-weight: 700;
    font-size: 30px;
    line-height: 1.05;
    outline: none;
  }
  .no {
    display: inline-block;
    min-width: 1em;
  }
  .drawn {
    flex: none;
    width: 108px;
  }
  .big,
  .name,
  .date {
    padding: 6px 14px;
  }
  .big {
    width: 150px;
    height: 74px;
    font-size: 44px;
    font-stretch: 66%;
    font-weight: 800;
  }
  .name {
    display: block;
    width: 100%;
    height: 54px;
    font-size: 20px;
  }
  .date {
    min-height: 48px;
  }
  @media (max-width: 700px) {
    .question {
      margin-top: 4px;
      border: 0;
      padding-top: 0;
    }
    .drawn {
      width: 96px;
    }
  }
</style>
