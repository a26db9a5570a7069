<!-- The treatments side by side, for this water, machine and use. -->
<script lang="ts">
  import { ask, client, newId, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import { amount, listed, money, plainly, round, span } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let {
    water,
    onchosen,
    onsaid,
  }: { water: Schemas['WaterAtWork']; onchosen: (w: Schemas['WaterAtWork']) => void; onsaid: () => void } = $props()
  type Setting = Schemas['TreatmentSetting']
  let open = $state<string>()
  let own = $state<Record<string, number | null>>({})
  let loose = $state(false)
  const act = new Act()
  const labels: [keyof Setting, string][] = [
    ['price', 'price of a renewal'],
    ['litre', 'price of a litre'],
    ['minutes', 'minutes of work each time'],
    ['rated_l', 'litres on the box'],
    ['rating_mg_l', 'at carbonate hardness, mg/L'],
    ['rated_bypass', 'goes past it, by the box, 0 to 0.9'],
    ['bypass', 'goes past it here, 0 to 0.9'],
    ['takes', 'takes of carbonate hardness, 0 to 1'],
    ['days', 'never longer than, days'],
    ['resin_l', 'resin, L'],
    ['salt_g', 'salt of a regeneration, g'],
    ['salt_kg', 'price of a kilogram of salt'],
    ['pass', 'passes the membrane, 0 to 0.5'],
    ['blend', 'share of tap water, below 0 as worked out'],
    ['hardness_mg_l', 'hardness on the label, mg/L'],
    ['alkalinity_mg_l', 'alkalinity on the label, mg/L'],
  ]
  // what is true of several is said once, under the table
  const often = $derived(
    water.table
      .flatMap((r) => r.says.map((x) => x.text))
      .filter((t, i, all) => all.indexOf(t) === i && all.filter((x) => x === t).length > 1),
  )
  const ownWords = (row: Schemas['TreatmentRow']) => row.says.filter((x) => !often.includes(x.text))
  const path = $derived({ params: { path: { machine_id: water.machine_id } } })
  const has = (s: Setting) =>
    labels.filter(
      ([field]) => field === 'price' || field === 'litre' || field === 'minutes' || s[field] !== undefined,
    )

  const choose = (treatment: Setting) =>
    act.try(async () =>
      onchosen(
        await ask(
          client.POST('/machines/{machine_id}/water', {
            ...path,
            body: { id: newId(), treatment, ...(water.source && { source_id: water.source.id }) },
          }),
        ),
      ),
    )
  function edit(row: Schemas['TreatmentRow']) {
    open = open === row.setting.kind ? undefined : row.setting.kind
    loose = row.setting.loose ?? false
    own = Object.fromEntries(has(row.setting).map(([field]) => [field, (row.setting[field] as number) ?? 0]))
  }
  const say = (kind: Setting['kind']) =>
    act.try(async () => {
      await ask(
        client.PUT('/treatments', {
          body: { kind, ...own, ...(kind === 'in_tank' && loose && { loose }) } as Setting,
        }),
      )
      open = undefined
      onsaid()
    })
</script>

<ProblemNote problem={act.problem} />
<div class="scroll" role="group" aria-label="Treatments" tabindex="-1">
  <table class="across">
    <thead>
      <tr class="label-voice"
        ><th>treatment</th><th class="n">hardness, mg/L</th><th class="n">alkalinity</th><th class="n">lasts</th><th
          class="n">scale a year</th
        ><th class="n">descale every</th><th>corrosion</th><th class="n">a year</th><th class="n">work a year</th
        ><th><span class="sr-only">choose</span></th></tr
      >
    </thead>
    <tbody>
      {#each water.table as row (row.setting.kind)}
        <tr class:chosen={row.chosen}>
          <th scope="row">
            <b class="num-voice text-[19px]">{row.title}</b>
            {#if row.blend}<div class="label-voice">
                with <Num worked={row.blend} text="{round(row.blend.value * 100)} %" /> of tap water
              </div>{/if}
            {#if row.reaches.in_window}<div class="label-voice">in the espresso window</div>{/if}
          </th>
          <td class="n"><Num worked={row.reaches.here} text={plainly(row.reaches.here)} /></td>
          <td class="n"><Num worked={row.reaches.alkalinity} text={plainly(row.reaches.alkalinity)} /></td>
          <td class="n"
            >{#if row.days}<Num
                worked={row.days}
                text={span(row.days.value)}
              />{#if row.litres && row.litres.value < 1e6}<div class="label-voice">
                  <Num worked={row.litres} text={amount(row.litres.value, 'L')} />
                </div>{/if}{:else}–{/if}</td
          >
          <td class="n"><Num worked={row.scale} text={amount(row.scale.value, 'g')} /></td>
          <td class="n"><Num worked={row.descale} text={span(row.descale.value)} /></td>
          <td class="why" class:text-stop={row.corrosion.verdict === 'look'}
            >{row.corrosion.verdict === 'fine'
              ? 'nothing'
              : row.corrosion.verdict === 'not_known'
                ? 'not known'
                : row.corrosion.because[0]?.text}</td
          >
          <td class="n"><Num worked={row.cost} text={money(row.cost.value)} /></td>
          <td class="n"><Num worked={row.minutes} text="{plainly(row.minutes)} min" /></td>
          <td class="do">
            {#if row.chosen}<b>{water.source || row.days ? 'holds now' : 'as you said'}</b>{/if}
            {#if !row.chosen || !water.source}<button
                type="button"
                class="for-keeper btn btn-outline btn-primary"
                aria-label="Choose {row.title}"
                onclick={() => choose(row.setting)}>Choose</button
              >{/if}
            <button
              type="button"
              class="for-keeper own"
              aria-expanded={open === row.setting.kind}
              onclick={() => edit(row)}>own numbers</button
            >
          </td>
        </tr>
        {#if ownWords(row).length > 0 || open === row.setting.kind}
          <tr class="under" class:chosen={row.chosen}>
            <td colspan="10">
              {#each ownWords(row) as r}<span class="mr-3">{r.text}</span>{/each}
              {#if open === row.setting.kind}
                <form
                  class="mt-2 flex flex-wrap items-end gap-3"
                  onsubmit={(e) => {
                    e.preventDefault()
                    void say(row.setting.kind)
                  }}
                >
                  {#each has(row.setting) as [field, label] (field)}
                    <label class="field">{label}<input type="number" step="any" bind:value={own[field]} /></label>
                  {/each}
                  {#if row.setting.kind === 'in_tank'}<label class="flex min-h-11 items-center gap-2"
                      ><input type="checkbox" bind:checked={loose} /> loose in the tank, not at the intake</label
                    >{/if}
                  <button class="btn btn-primary">Save these numbers</button>
                </form>
              {/if}
            </td>
          </tr>
        {/if}
      {/each}
    </tbody>
  </table>
</div>
{#each often as text (text)}<p class="text-ink-2 mt-1 text-[15px]">
    {listed(water.table.filter((r) => r.says.some((x) => x.text === text)).map((r) => r.title))}: {text}
  </p>{/each}

<style>
  .scroll {
    overflow-x: auto;
  }
  table {
    border-top: 2px solid var(--color-ink);
  }
  thead th {
    padding-block: 6px;
  }
  .why {
    font-size: 15px;
    max-width: 240px;
  }
  .under {
    border: 0 !important;
  }
  .under td {
    padding: 0 0 10px;
    font-size: 15px;
    color: var(--color-ink-2);
  }
  .chosen {
    background: var(--color-act-soft);
  }
  .chosen th:first-child,
  .under.chosen td {
    padding-left: 12px;
  }
  .do {
    text-align: right;
    white-space: nowrap;
  }
  .do .btn {
    padding: 6px 14px;
    font-size: 16px;
  }
  .own {
    margin-left: 14px;
    min-height: 44px;
    font-size: 15px;
    text-decoration: underline;
    text-underline-offset: 3px;
    cursor: pointer;
  }
  .field input {
    width: 150px;
  }
  @media (max-width: 1000px) {
    table {
      min-width: 960px;
    }
    tbody tr:not(.under) > th {
      position: sticky;
      left: 0;
      max-width: 150px;
      background: var(--color-paper);
    }
    .chosen th {
      background: var(--color-act-soft);
    }
  }
  @media print {
    .do {
      display: none;
    }
  }
</style>
