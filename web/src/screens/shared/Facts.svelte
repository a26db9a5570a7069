<!-- Everything kept of a machine: said, or taken for granted; each changeable. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { may } from '../../data/me.svelte'
  import { Act } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { dayStart, marks } from '../../ui/format'

  let {
    machine,
    version,
    facts,
    start,
    onchanged,
  }: {
    machine: string
    version: number
    facts: Schemas['Fact'][]
    start?: string
    onchanged: (m: Schemas['Machine']) => void
  } = $props()
  let open = $state<string>()
  let value = $state('')
  let since = $state('') // of a correction: it was like that from this day on
  const act = new Act()

  function edit(f: Schemas['Fact']) {
    open = open === f.key ? undefined : f.key
    value = f.value
    since = ''
    act.problem = undefined
  }
  // svelte-ignore state_referenced_locally
  const first = facts.find((f) => f.key === start)
  if (first) edit(first)
  async function keep(key: string, to?: string) {
    await act.try(async () => {
      onchanged(
        await ask(
          client.POST('/machines/{machine_id}/facts', {
            params: { path: { machine_id: machine } },
            body: {
              version,
              ...(since && { since: dayStart(since) }),
              facts: [to === undefined ? { key } : { key, value: to }],
            },
          }),
        ),
      )
      open = undefined
    })
  }
</script>

<ul class="border-ink border-t-2">
  {#each facts as f (f.key)}
    <li class="border-rule border-b">
      <button
        type="button"
        class="row"
        aria-expanded={open === f.key}
        disabled={!may('keeper')}
        onclick={() => edit(f)}
      >
        <span>{f.label}</span>
        <b>{f.value_title ?? f.value} {f.unit}</b>
        <span class="label-voice">{f.set ? 'you said so' : marks[f.source.kind]}</span>
      </button>
      {#if open === f.key}
        <form
          class="edit"
          novalidate
          onsubmit={(e) => {
            e.preventDefault()
            void keep(f.key, String(value).trim())
          }}
        >
          {#if f.options}
            <select class="given" bind:value aria-label={f.label}
              >{#each f.options as o, i (o)}<option value={o}>{f.titles?.[i] ?? o}</option>{/each}</select
            >
          {:else}
            <input class="given" inputmode="decimal" bind:value aria-label={f.label} />
          {/if}
          <button class="btn btn-primary">Save</button>
          {#if f.set}<button type="button" class="btn btn-outline btn-primary" onclick={() => keep(f.key)}
              >Back to {f.default}</button
            >{/if}
          <label class="since">It was like that since <input type="date" bind:value={since} /></label>
          <p class="w-full text-[15px]">
            Changes {f.changes}. {since
              ? 'From that day on the past is worked out anew.'
              : 'It holds from now on; what was before stays as it was.'}
          </p>
          <ProblemNote
            problem={act.problem}
            take={(m) => {
              value = String(m.value)
              void keep(f.key, value)
            }}
          />
        </form>
      {/if}
    </li>
  {/each}
</ul>

<style>
  .row {
    display: grid;
    grid-template-columns: 1.4fr 1fr 130px;
    gap: 12px;
    align-items: baseline;
    width: 100%;
    min-height: 44px;
    padding: 8px 0;
    text-align: left;
    cursor: pointer;
  }
  .row b {
    font-stretch: 75%;
    font-size: 18px;
  }
  .row:hover b {
    text-decoration: underline;
  }
  .edit {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 10px;
    padding: 4px 0 16px;
  }
  .given {
    min-width: 130px;
    font-size: 18px;
  }
  .since {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 44px;
    font-size: 15px;
  }
  @media (max-width: 600px) {
    .row {
      grid-template-columns: 1.4fr 1fr;
    }
    .row .label-voice {
      grid-column: 1 / -1;
      margin-top: -8px;
    }
  }
</style>
