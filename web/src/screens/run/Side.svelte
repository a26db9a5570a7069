<!-- Beside the step: all steps, what soaks, presses that wait, and how full tray and tank are. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import Num from '../../ui/Num.svelte'
  import { amount, figure, groupOf, preferred, round } from '../../ui/format'
  import VoidRun from '../shared/VoidRun.svelte'
  import { minutes, type Stage } from './stage.svelte'

  let { s }: { s: Stage } = $props()
  const live = $derived(s.live)
  const run = $derived(s.run!)
  const step = $derived(s.step!)
  // how much of the rinse is done; how strong it stands before it, the map shows
  function counted(c: Schemas['AcidNow']): string {
    const rinsed =
      c.least.unit === 'refills'
        ? `${c.rinsed} of ${round(c.least.value)} refills`
        : `${figure(preferred(c.rinsed, 'L').value)} of ${amount(c.least.value, 'L')} rinsed`
    if (c.enough) return 'rinsed enough: prove it'
    return c.rinsed > 0 ? rinsed : 'acid in it'
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<ol class="lines" aria-label="Steps" tabindex="0">
  {#each run.lines as line (line.id)}
    <li class={line.status} aria-current={line.status === 'now' ? 'step' : undefined}>
      <span
        >{#if s.several && line !== run.lines[0]}<i class="tag">{groupOf(line.part) || ''}</i
          >{/if}{line.title}</span
      >
      <b
        >{line.status === 'beside'
          ? 'soaking'
          : line.status === 'now' && s.pulsing && !s.pushing
            ? `${live.segment?.pulse} of ${step.pulses}`
            : (line.note ?? '')}</b
      >
    </li>
  {/each}
</ol>
<div class="vessels">
  {#if run.sooner_min}<p role="status">
      <b>In another order:</b> your hands are free, so this comes first. Over {run.sooner_min} min sooner.
    </p>{/if}
  {#each run.soaks as x (x.id)}
    {@const late = s.over(x)}
    <div class="meanwhile" class:late={late >= 0} role={late >= 0 ? 'alert' : undefined}>
      <span>{x.what}<br /><b>{late >= 0 ? `${x.text} is over: comes next` : x.text}</b></span>
      <b class="huge-voice" data-soak={x.what}>{late >= 0 ? `+${minutes(late)}` : minutes(-late)}</b>
    </div>
  {/each}
  {#if live.following}<p role="status">
      <b>{run.device === run.last_device ? 'The device that started leads.' : 'Another device has taken over.'}</b> This
      one follows. Press any button to take control.
    </p>{/if}
  {#if live.waiting.length > 0}<p class="caution" role="status">
      <b>{live.busy ? 'The server is busy.' : 'No connection.'}</b> Your press is kept and sent again.{live.unkept
        ? ' This browser keeps nothing: leave this page open until it is sent.'
        : ''}
    </p>{/if}
  {#each live.lost as l (l.id)}
    <div class="caution" role="alert">
      <p>
        <b>Your press did not count:</b>
        {l.problem.title}.{l.problem.allowed ? ` Allowed: ${l.problem.allowed}.` : ''}
        {l.problem.detail ?? ''}
      </p>
      <div class="flex flex-wrap gap-x-5">
        <button type="button" class="cannot" onclick={() => live.forget(l.id)}>I have seen it</button>
      </div>
      {#if l.problem.code === 'conflict'}<VoidRun run={run.id} onended={() => void live.load()} />{/if}
    </div>
  {/each}
  {#if run.descale && run.descale.contact_min > 0 && (step.phase || run.outcome)}
    {@const d = run.descale}
    <div class="vessel">
      <span>acid</span>
      <div class="track">
        <div class="hatch" style:width="{Math.min(1.15, d.contact_min / d.contact_most_min) * 82}%"></div>
        <i></i>
      </div>
      <b>{round(d.contact_min)} of {round(d.contact_most_min)} min</b>
    </div>
    {#each d.circuits.filter((c) => c.ever) as c (c.id)}
      <div class="vessel">
        <span class="two">{c.title}</span><b class="span"
          >{#if c.in}<Num worked={c.left} text={counted(c)} />{:else}proven clean{/if}</b
        >
      </div>
    {/each}
  {/if}
  {#if run.tray && !step.phase}
    <div class="vessel">
      <span>tray</span>
      <div class="track">
        <div class="waves" style:width="{run.tray.share * 82}%"></div>
        <i></i>
      </div>
      <b
        ><Num
          worked={run.tray.has}
          text="{figure(preferred(run.tray.has.value / 1000, 'L').value)} of {amount(
            run.tray.holds_ml / 1000,
            'L',
          )}"
        /></b
      >
    </div>
  {/if}
  {#if run.tank && !step.phase}
    <div class="vessel">
      <span>tank</span>
      <div class="track">
        <div class="waves" style:width="{run.tank.share * 82}%"></div>
        <i></i>
      </div>
      <b><Num worked={run.tank.has} text="{amount(run.tank.has.value / 1000, 'L')} left" /></b>
    </div>
  {/if}
</div>
