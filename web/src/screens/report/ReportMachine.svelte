<!-- What a report says of one machine. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { p } from '../../router'
  import SightPicture from '../../ui/sights/SightPicture.svelte'

  let { m }: { m: Schemas['ReportPart'] } = $props()
</script>

<section class="machine">
  <h2 class="huge-voice text-[36px]">
    <a class="hover:underline" href={p('/machines/:id', { params: { id: m.id } })}>{m.name}</a>
  </h2>
  <p class="label-voice">{m.head}</p>
  {#each m.inside as text (text)}<p class="inside" role="alert">{text}.</p>{/each}

  {#if m.found.length > 0}
    <h3 class="head-voice">What was found</h3>
    <ul class="found">
      {#each m.found as f (f.title)}
        <li>
          <span class="drawn"><SightPicture sight={f.sight} verdict={f.verdict} /></span>
          <div>
            <b class:text-stop={f.bad}>{f.title}: {f.text.charAt(0).toLowerCase() + f.text.slice(1)}</b>
            <p>{f.means}</p>
          </div>
        </li>
      {/each}
    </ul>
  {/if}

  <h3 class="head-voice">What was done</h3>
  <ol>
    {#each m.done as d, i (i)}
      <li class="beside">
        <span>{d.when}</span>
        <div>
          <b class:text-stop={d.unsafe}>{d.title}</b>
          <p>{[...d.did, d.proof, d.by && `By ${d.by}.`].filter(Boolean).join(' ')}</p>
        </div>
      </li>
    {:else}<li>Nothing is on record for these days.</li>
    {/each}
  </ol>

  {#if m.next.length > 0}
    <h3 class="head-voice">What comes next</h3>
    <ol>
      {#each m.next as n (n.when + n.between)}
        <li class="beside">
          <span>{n.when}</span>
          <div>
            {#each n.jobs as j (j.title)}<p><b>{j.title}</b>{j.why ? `. ${j.why}` : ''}</p>{/each}
            {#if n.between}<p class="label-voice">{n.between}</p>{/if}
          </div>
        </li>
      {/each}
    </ol>
    <p class="print:hidden">
      <a class="inline-block py-2 underline underline-offset-4" href={p('/machines/:id', { params: { id: m.id } })}
        >How each of these dates comes about, on its own page</a
      >
    </p>
  {/if}

  {#if m.daily.length > 0}
    <h3 class="head-voice">Yours to do, every day</h3>
    <ul>
      {#each m.daily as d (d.title)}<li class="own"><b>{d.title}.</b> {d.how}</li>{/each}
    </ul>
  {/if}

  <h3 class="head-voice">Mind</h3>
  {#each m.cautions as c (c)}<p class="caution mt-1">{c}</p>{/each}
</section>

<style>
  .machine {
    margin-top: 18px;
    padding-top: 14px;
    border-top: 3px solid var(--color-ink);
  }
  h3 {
    margin: 22px 0 4px;
    padding-bottom: 3px;
    border-bottom: 1.5px solid var(--color-ink);
    font-size: 24px;
    break-after: avoid;
  }
  .inside {
    margin-top: 12px;
    padding: 10px 14px;
    border: 6px solid var(--color-stop);
    font-weight: 700;
    font-size: 19px;
  }
  .found li {
    display: grid;
    grid-template-columns: 84px minmax(0, 1fr);
    gap: 16px;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-rule);
    break-inside: avoid;
  }
  .beside {
    display: grid;
    grid-template-columns: 170px minmax(0, 1fr);
    gap: 2px 16px;
    padding: 6px 0;
    border-bottom: 1px solid var(--color-rule);
    break-inside: avoid;
  }
  .beside > span {
    font-stretch: 85%;
  }
  .own {
    position: relative;
    padding: 3px 0 3px 26px;
    break-inside: avoid;
  }
  .own::before {
    content: '';
    position: absolute;
    left: 0;
    top: 9px;
    width: 14px;
    height: 14px;
    border: 1.5px solid var(--color-ink);
  }
  @media (max-width: 520px) {
    .beside {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  @media print {
    .machine + :global(.machine) {
      break-before: page;
    }
  }
</style>
