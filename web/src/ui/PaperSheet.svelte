<!-- A sheet of work, on screen and on paper: what is at the side on screen comes first on paper; nothing that is
     pressed is printed. -->
<script lang="ts">
  import type { Snippet } from 'svelte'

  let { children }: { children: Snippet } = $props()
</script>

<div class="sheet p-4 sm:p-8">{@render children()}</div>

<style>
  @page {
    size: A4;
    margin: 12mm;
  }
  .sheet :global(.head) {
    font-size: clamp(48px, 7vw, 84px);
  }
  .sheet :global(.body) {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 260px;
    gap: 24px 40px;
    margin-top: 20px;
  }
  .sheet :global(.begin) {
    display: flex;
    gap: 12px;
    align-items: center;
    font-weight: 600;
  }
  .sheet :global(.begin input) {
    height: 48px;
    padding: 0 12px;
    border: 1.5px solid var(--color-ink);
    background: var(--color-slip);
    font-weight: 600;
  }
  .sheet :global(.act) {
    display: grid;
    gap: 10px;
    margin-top: 14px;
  }
  .sheet :global(.act .btn) {
    width: 100%;
  }
  .sheet :global(.lay li) {
    padding: 6px 0;
    border-bottom: 1px solid var(--color-rule);
  }
  .sheet :global(.box) {
    display: inline-block;
    width: 0.8em;
    height: 0.8em;
    margin-right: 8px;
    border: 1.5px solid var(--color-ink);
  }
  .sheet :global(.by-step > li) {
    display: grid;
    grid-template-columns: 150px minmax(0, 1fr);
    gap: 2px 16px;
    padding: 10px 0;
    border-bottom: 1px solid var(--color-rule);
    break-inside: avoid;
  }
  .sheet :global(.by-step .caution) {
    margin-bottom: 4px;
    font-size: 15px;
  }
  .sheet :global(.by-step p) {
    max-width: 62ch;
  }
  @media (max-width: 900px) {
    .sheet :global(.body) {
      grid-template-columns: minmax(0, 1fr);
    }
    .sheet :global(.by-step > li) {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  @media screen and (max-width: 700px) {
    .sheet :global(.by-step > li) {
      grid-template-columns: 92px minmax(0, 1fr);
      padding: 2px 0;
    }
  }
  @media print {
    .sheet :global(.begin),
    .sheet :global(.act) {
      display: none;
    }
    .sheet :global(.head) {
      padding: 0;
      font-size: 34px;
    }
    .sheet {
      padding: 0;
      font-size: 10px;
      line-height: 1.2;
    }
    .sheet :global(.label-voice),
    .sheet :global(.key-line) {
      font-size: 10px;
      line-height: 1.2;
    }
    .sheet :global(svg[role='img']) {
      max-height: 62mm;
    }
    .sheet :global(h2.head-voice) {
      margin-top: 8px;
      font-size: 18px;
    }
    .sheet :global(.body) {
      display: block;
      margin-top: 4px;
    }
    .sheet :global(.lay) {
      columns: 2;
      column-gap: 8mm;
    }
    .sheet :global(.lay li) {
      padding: 1px 0;
      break-inside: avoid;
    }
    .sheet :global(.by-step) {
      columns: 2;
      column-gap: 8mm;
    }
    .sheet :global(.by-step > li) {
      grid-template-columns: 17mm minmax(0, 1fr);
      gap: 0 2mm;
      padding: 2px 0;
    }
    .sheet :global(.by-step .caution) {
      margin-bottom: 1px;
      padding-left: 6px;
      border-left-width: 4px;
      font-size: 9.5px;
    }
    .sheet :global(.by-step h3),
    .sheet :global(.by-step > li > div > b) {
      font-size: 13px;
    }
  }
</style>
