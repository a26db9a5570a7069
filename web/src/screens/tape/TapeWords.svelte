<!-- The strip as a calendar file, and told in words, for whoever hears it or prints it. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { dated, day, listed, round } from '../../ui/format'

  type Track = Schemas['TapeTrack']
  let {
    t,
    machine,
    named,
    falls,
  }: { t: Schemas['Tape']; machine: string; named: (t: Track) => string; falls: (t: Track) => string } = $props()
  const spoken = $derived(t.tracks.map((x) => ({ t: x, done: x.done.map((d) => dated(d.day!, t.zone)) })))
</script>

<p class="mt-5 print:hidden">
  <a class="inline-block py-2 underline underline-offset-4" href="/api/calendar.ics?machine_id={machine}" download
    >These dates as a calendar file</a
  >
</p>
<details class="mt-2">
  <summary class="linked py-2 font-semibold">The tape in words</summary>
  <p class="max-w-3xl">
    {round(t.now)} drinks since {dated(t.since, t.zone)}. {t.logged_since
      ? `Logged since ${dated(t.logged_since, t.zone)}; before that, and after the last reading, ` +
        'as many as you said or usually make.'
      : 'None was logged: as many as you said a day.'}{#each t.pinches as k (k.from)}{' '}From {day(k.from, t.zone)} to
      {day(k.to, t.zone)} there was no drink.{/each}
  </p>
  <dl class="mt-2">
    {#each spoken as s (s.t.task + s.t.part)}
      <dt class="mt-2 font-bold">{named(s.t)}</dt>
      <dd>
        {s.done.length > 0 ? `Done ${listed(s.done)}.` : 'Not done on this strip.'}
        {s.t.state !== 'later' ? s.t.says : s.t.due ? falls(s.t) : 'Next later than this strip reaches.'}{s.t.placed
          ? ` Put on ${day(s.t.placed, t.zone)} by hand.`
          : ''}
      </dd>
    {/each}
  </dl>
</details>
