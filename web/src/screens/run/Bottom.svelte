<!-- Always in reach, at any size: the way out, help, and the press that goes on. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { may } from '../../data/me.svelte'
  import { p } from '../../router'
  import type { Sounds } from './sounds.svelte'
  import type { Stage } from './stage.svelte'

  let {
    s,
    sounds,
    onaway,
    onleave,
    ontrouble,
  }: { s: Stage; sounds: Sounds; onaway: () => void; onleave: () => void; ontrouble: () => void } = $props()
  const live = $derived(s.live)
  const run = $derived(s.run!)
  function press(event: MouseEvent, act: () => void) {
    if (event.detail > 0) (event.currentTarget as HTMLElement).blur() // so that space means the main button again
    act()
  }
</script>

{#snippet mended(text: string, what: Schemas['Press']['what'])}
  <button
    type="button"
    class="press line"
    onclick={(e) => press(e, () => !s.others && live.press('mended', { what }))}>{text}</button
  >
{/snippet}

{#snippet other(text: string, kind: 'no_pressure' | 'nothing_came' | 'opened')}
  <button type="button" class="press line" onclick={(e) => press(e, () => !s.others && live.press(kind))}
    >{text}</button
  >
{/snippet}

<div class="bottom">
  <div class="keys" data-fresh={s.fresh ? '' : undefined}>
    {#if live.waiting.length > 0 && live.stuck}<p class="stuck" role="status">
        <b>No answer yet.</b> Your press is kept and sent again.
      </p>{/if}
    {#if !run.outcome && may('closer')}
      <!-- what holds, stops or reports stands apart from what goes on: no second tap meets it -->
      <div class="apart">
        {#if s.allowed('mended')}
          {@render mended('Water was missing', 'water_was_missing')}
          {#if !s.pushing}{@render mended('The blind was wrong', 'blind_was_wrong')}
            {@render mended('The handle was loose', 'handle_was_loose')}{/if}
        {/if}
        {#if s.main?.aside}{@const main = s.main}<button
            type="button"
            class="press line"
            class:whole={main.byHand}
            onclick={(e) => press(e, main.act)}
            >{main.text}{#if !main.byHand}<small>p, space</small>{/if}</button
          >{/if}
        {#if (s.pulsing || s.resting) && !s.cut}{@render other(
            s.pushing ? 'No water comes' : 'No pressure',
            'no_pressure',
          )}{/if}
        {#if s.allowed('nothing_came') && !s.cut}{@render other(
            s.pressed > 0 ? 'Still nothing' : 'Nothing came out',
            'nothing_came',
          )}{/if}
        {#if s.allowed('opened') && (s.blocked || s.allowed('begin'))}{@render other(
            'It has opened',
            'opened',
          )}{/if}
      </div>
      <div class="help">
        {#if run.help.length > 0}<button type="button" onclick={ontrouble}>Something is wrong</button>{/if}
        {#if s.allowed('stop')}<button type="button" onclick={onleave}>I cannot go on</button>{/if}
        {#if s.allowed('away')}<button type="button" onclick={onaway}>I am called away</button>{/if}
      </div>
    {/if}
    <div class="buttons">
      {#if run.outcome}
        <a class="press" href={p('/')}
          >{run.outcome === 'stopped_unsafe' && !run.groups.some((g) => g.blind > 0)
            ? 'To the bench: rinse it'
            : 'To the bench'}</a
        >
        <a class="press line" href={p('/machines/:id/log', { params: { id: run.machine_id } })}>Log</a>
      {:else if !may('closer')}
        <p class="p-4"><b>You look on.</b> The presses are for whoever leads the run.</p>
      {:else if s.main && !s.main.aside}
        {@const main = s.main}
        <button type="button" class="press" disabled={main.off} onclick={(e) => press(e, () => s.go())}
          >{main.text}{#if !main.byHand}<small>space</small>{/if}</button
        >
      {:else}
        <p class="press idle">
          {s.pulsing || s.resting ? 'By the clock' : s.main ? 'No going on from here' : 'It stands'}
        </p>
      {/if}
    </div>
  </div>
  {#if !run.outcome}
    <div class="ways">
      {#if s.allowed('cut') && may('closer')}<button
          type="button"
          class="cannot"
          onclick={(e) => press(e, () => live.press('cut'))}>The power is gone</button
        >{/if}
      <button type="button" class="cannot" aria-pressed={s.brief} onclick={(e) => press(e, () => s.say(!s.brief))}
        >{s.brief ? 'All words' : 'Few words'}</button
      >
      <a class="cannot" href={p('/')}>{run.practice ? 'Leave it' : 'Bench; the run goes on'}</a>
      <span class="sound">
        <button
          type="button"
          class="cannot"
          aria-pressed={!sounds.muted}
          onclick={(e) => press(e, () => sounds.mute(!sounds.muted))}
          >{sounds.muted ? 'Sound is off' : sounds.asleep ? 'Sound off, touch' : 'Sound is on'}</button
        >
        <input
          type="range"
          min="0"
          max="1"
          step="0.1"
          aria-label="Volume"
          value={sounds.volume}
          oninput={(e) => sounds.louder(Number(e.currentTarget.value))}
        />
      </span>
      {#if sounds.dark}<span class="label-voice">the screen may go dark here</span>{/if}
    </div>
  {/if}
</div>

<style>
  .bottom {
    flex: none;
    display: flex;
    flex-direction: column;
    background: var(--color-slip);
    border-top: 2px solid var(--color-ink);
  }
  .idle {
    background: var(--color-slip);
    color: var(--color-ink);
    cursor: default;
    font-weight: 500;
  }
  .apart {
    display: flex;
    flex-wrap: wrap;
  }
  .apart:not(:empty) {
    border-top: 2px solid var(--color-ink);
  }
  .apart :global(.press.line:last-child) {
    border-right: 0;
  }
  .apart:empty {
    display: none;
  }
  .apart :global(.press.line) {
    flex: 1 1 0;
    min-height: 64px;
    border-left: 0;
    border-right: 2px solid var(--color-ink);
    border-bottom: 2px solid var(--color-ink);
  }
  .apart :global(.press.whole) {
    flex: 1 0 100%;
    order: -1;
    background: var(--color-ink);
    color: var(--color-paper);
  }
  .stuck {
    padding: 8px 16px;
    border-bottom: 2px solid var(--color-ink);
  }
  .help {
    display: flex;
  }
  .help button {
    flex: 1 1 auto;
    min-height: 48px;
    padding: 2px 6px;
    border-right: 1px solid var(--color-rule);
    font-stretch: 76%;
    font-weight: 600;
    font-size: 17px;
    line-height: 1.1;
    cursor: pointer;
  }
  .help button:last-child {
    border-right: 0;
  }
  .ways {
    order: -1;
    padding: 2px 16px;
  }
  @media (max-width: 1000px) {
    .bottom {
      display: contents;
    }
    .keys {
      order: 4;
      position: sticky;
      bottom: 0;
      z-index: 2;
      background: var(--color-slip);
      border-top: 2px solid var(--color-ink);
    }
    .ways {
      order: 3;
      background: var(--color-slip);
    }
  }
</style>
