<!-- A machine's own beats on a card of four sides, to fold, and a tag for its door. It prints on two pages. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import { day, groupOf, lasting } from '../../ui/format'
  import Num from '../../ui/Num.svelte'
  import QrPicture from '../../ui/QrPicture.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'
  import { p, route } from '../../router'

  const page = new Resource<Schemas['MachineCard']>()
  const card = $derived(page.value)
  const id = $derived((route.params as { id?: string }).id ?? '')
  async function load(of: string) {
    const params = { path: { machine_id: of } }
    const got = await page.ask((signal) => ask(client.GET('/machines/{machine_id}/card', { params, signal })))
    if (got) document.title = `Card, ${got.machine_name} · Fresh Anvil`
  }
  $effect(() => void load(id))
  const several = $derived(
    new Set(card?.sides.flatMap((s) => s.tasks.map((t) => groupOf(t.part))).filter((g) => g > 0)).size > 1,
  )
  // of several groups each task once
  const named = (tasks: Schemas['CardTask'][]) => [
    ...new Set(tasks.map((t) => `${t.title}${several && groupOf(t.part) > 0 ? ', each group' : ''}`)),
  ]
  const states = [
    'Detergent is inside: no drinks',
    'Acid is inside: no drinks, do not heat',
    'It cools, it is open: do not switch on',
    'The water is shut',
  ]
  const seldom = $derived([...new Map((card?.rounds ?? []).map((r) => [r.title, r])).values()])
</script>

{#if page.problem}<div class="m-4 sm:m-8"><ProblemNote problem={page.problem} /></div>{/if}
{#if card}
  {@const c = card}
  <div class="page p-4 sm:p-8">
    <div class="top">
      <p class="label-voice">
        <a class="underline underline-offset-4" href={p('/machines/:id', { params: { id } })}>{c.machine_name}</a>
      </p>
      <h1 class="huge-voice text-[clamp(40px,6vw,72px)]">{c.base_days > 0 ? `A side ${c.every}` : 'No beats'}</h1>
      {#if c.base_days > 0}
        <p class="mt-2 max-w-3xl">
          Fold the sheet twice and stand it on the machine. When a side is done, write the day on it and turn the
          card. The dates on the bench go by the drinks you log and come first; the card is for where no screen is.
        </p>
        <button type="button" class="btn btn-primary mt-3" onclick={() => print()}
          >Print the card and the tag</button
        >
      {:else}<p>Nothing of this machine comes round yet: its answers give no task a date.</p>{/if}
    </div>
    {#if c.base_days > 0}
      <div class="card">
        {#each c.sides as s, i (i)}
          <section class="side" aria-label="Side {i + 1} of 4">
            <div class="stub"><span class="huge-voice">{i + 1}</span><span class="label-voice">of 4</span></div>
            <div>
              <p class="label-voice">{c.machine_name}, {c.every}</p>
              <ol class="jobs">
                {#each named(s.tasks) as text (text)}<li><span class="box"></span>{text}</li>{:else}<li>
                    Nothing this time. Turn the card.
                  </li>{/each}
              </ol>
              {#if i === 3}{#each seldom as r (r.title)}<p class="seldom">
                    <span class="box"></span>{r.title}: {r.every}
                  </p>{/each}{/if}
              {#if s.tasks.length > 0}<p class="label-voice">
                  About <Num worked={s.minutes} text={lasting(s.minutes.value)} /> of your time.
                  {`Lay out: ${s.lay_out.join('; ') || 'see the descale card'}.`}
                </p>{/if}
              <p class="write">
                {#each [1, 2, 3] as n (n)}<span>day</span>{/each}
              </p>
            </div>
          </section>
        {/each}
      </div>
      <div class="tags">
        <section class="tag" aria-label="The tag, in use">
          <p class="label-voice">In use</p>
          <p class="huge-voice name">{c.machine_name}</p>
          <p>{[c.owner, c.place].filter(Boolean).join(', ')}</p>
          {#if c.next_at}<p class="mt-2">
              <b>Next, about {day(c.next_at, c.zone)}:</b>
              {c.next?.toLowerCase()}.
            </p>{/if}
          {#if c.daily.length > 0}<p class="label-voice mt-2">Each day: {c.daily.join(', ').toLowerCase()}.</p>{/if}
          {#if c.qr}<div class="qr">
              <QrPicture rows={c.qr} label="QR code of the page of {c.machine_name}" />
              <p class="label-voice">What is due, and what to do: read this with a phone.</p>
            </div>{:else}<p class="mt-3 print:hidden">
              A QR code that opens this machine stands here once this card is opened at the address by which phones
              reach the server. A phone finds nothing at {location.host}.
            </p>{/if}
        </section>
        <section class="tag stop" aria-label="The tag, not to be used">
          <p class="huge-voice name">Do not use</p>
          <ul>
            {#each states as text (text)}<li>
                <span class="box"></span>{text}
              </li>{/each}
          </ul>
          <p class="write"><span>back at</span><span>who</span></p>
        </section>
      </div>
    {/if}
  </div>
{/if}

<style>
  @page {
    size: A4;
    margin: 10mm;
  }
  .card {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    margin-top: 24px;
    border: 2px solid var(--color-ink);
  }
  .side {
    display: grid;
    grid-template-columns: 74px minmax(0, 1fr);
    gap: 14px;
    padding: 16px;
    border: 1px dashed var(--color-rule);
  }
  .stub {
    display: grid;
    align-content: start;
    justify-items: center;
    border-right: 2px dashed var(--color-rule);
  }
  .stub .huge-voice {
    font-size: 84px;
  }
  .jobs {
    font-size: 21px;
    font-weight: 650;
    font-stretch: 80%;
    line-height: 1.25;
  }
  .jobs li,
  .seldom,
  .tag li {
    padding: 3px 0;
  }
  .box {
    display: inline-block;
    width: 0.8em;
    height: 0.8em;
    margin-right: 10px;
    border: 1.5px solid var(--color-ink);
  }
  .write {
    display: flex;
    gap: 16px;
    margin-top: 18px;
  }
  .write span {
    flex: 1;
    border-top: 1.5px solid var(--color-ink);
    color: var(--color-ink-2);
    font-size: 13px;
  }
  .tags {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    gap: 16px;
    margin-top: 24px;
  }
  .tag {
    padding: 20px;
    border: 2px solid var(--color-ink);
  }
  .qr {
    display: grid;
    grid-template-columns: 96px minmax(0, 1fr);
    gap: 12px;
    align-items: center;
    margin-top: 10px;
  }
  .tag.stop {
    border: 6px solid var(--color-stop);
  }
  .tag .name {
    font-size: clamp(34px, 4.6vw, 60px);
  }
  @media (max-width: 700px) {
    .card,
    .tags {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  @media print {
    .top {
      display: none;
    }
    .page {
      padding: 0;
      font-size: 11px;
    }
    .card {
      height: 270mm;
      grid-template-columns: repeat(2, minmax(0, 1fr));
      grid-template-rows: 1fr 1fr;
      margin: 0;
      break-after: page;
    }
    .jobs {
      font-size: 16px;
    }
    .tags {
      grid-template-columns: repeat(2, minmax(0, 1fr));
    }
    .tag {
      min-height: 130mm;
    }
  }
</style>
