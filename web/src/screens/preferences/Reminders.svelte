<!-- Who is told of what falls due, by mail or by a webhook; how it went; a trial of each. Off until somebody asks. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Act, Resource } from '../../data/resource.svelte'
  import { localZone, stamp } from '../../ui/format'
  import Fold from '../../ui/Fold.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  const page = new Resource<Schemas['Reminders']>()
  const act = new Act()
  const trial = new Act()
  type Said = Schemas['NewReminders']
  let said = $state<Said>()
  let kept = $state(false)
  let sent = $state('')
  const r = $derived(page.value)

  const take = (got: Schemas['Reminders']) => {
    page.show(got)
    const { has_password: _p, ...mail } = got.mail
    const { has_secret: _s, ...webhook } = got.webhook
    said = {
      mail: { ...mail, password: '' },
      webhook: { ...webhook, secret: '' },
      quiet_from: got.quiet_from,
      quiet_to: got.quiet_to,
      zone: got.zone || localZone,
      address: got.address || location.origin,
    }
  }
  $effect(() => {
    void act.try(async () => take(await ask(client.GET('/reminders'))))
  })
  async function keep(event: SubmitEvent) {
    event.preventDefault()
    kept = false
    const body = $state.snapshot(said) as Said
    if (!body.mail.password) delete body.mail.password
    if (!body.webhook.secret) delete body.webhook.secret
    kept = !!(await act.try(async () => take(await ask(client.PUT('/reminders', { body })))))
  }
  async function send(channel: Schemas['Channel']) {
    sent = ''
    const done = await trial.try(() =>
      ask(client.POST('/reminders/trials', { body: { channel }, parseAs: 'text' })),
    )
    if (done) sent = channel
  }
  const delivery = (channel: Schemas['Channel']) => r?.went.find((w) => w.channel === channel)
  const note = $derived(
    r ? [r.mail.on && `mail to ${r.mail.to}`, r.webhook.on && 'a webhook'].filter(Boolean).join(', ') || 'off' : '',
  )
</script>

{#snippet went(channel: Schemas['Channel'])}
  {@const w = delivery(channel)}
  {#if w?.failed}<p class="caution mt-2">
      <b>It could not be sent{w.failures > 1 ? `, ${w.failures} times in a row` : ''}.</b>
      {w.failed}. {#if w.next}Tried again from {stamp(w.next, said?.zone || localZone)} on.{/if}
    </p>{/if}
  {#if w?.sent}<p class="label-voice">last sent {stamp(w.sent, said?.zone || localZone)}</p>{/if}
{/snippet}

<Fold title="Reminders" {note}>
  <p class="max-w-2xl">
    Each job is told of once when it falls due and once when it is overdue, by mail once a day at most. What is done
    every day is not told of. Off until you switch it on.
  </p>
  {#if said}
    <form class="mt-3 grid gap-4" onsubmit={keep} novalidate>
      <label class="tick"><input type="checkbox" bind:checked={said.mail.on} /> By mail</label>
      {#if said.mail.on}
        <div class="flex flex-wrap gap-3">
          <label class="field">To<input type="email" multiple bind:value={said.mail.to} /></label>
          <label class="field">From<input type="email" bind:value={said.mail.from} /></label>
          <label class="field"
            >Mail server<input bind:value={said.mail.host} placeholder="mail.example.org" /></label
          >
          <label class="field narrow">Port<input type="number" bind:value={said.mail.port} /></label>
          <label class="field"
            >Security<select bind:value={said.mail.security}
              ><option value="starttls">STARTTLS</option><option value="tls">TLS</option><option value="none"
                >none, on this machine</option
              ></select
            ></label
          >
          <label class="field">User, if it asks<input autocomplete="off" bind:value={said.mail.user} /></label>
          <label class="field"
            >Password<input
              type="password"
              autocomplete="new-password"
              bind:value={said.mail.password}
              placeholder={r?.mail.has_password ? 'is kept' : ''}
            /></label
          >
        </div>
        {@render went('mail')}
      {/if}
      <label class="tick"><input type="checkbox" bind:checked={said.webhook.on} /> To a webhook, as JSON</label>
      {#if said.webhook.on}
        <div class="flex flex-wrap gap-3">
          <label class="field">Address<input type="url" bind:value={said.webhook.url} /></label>
          <label class="field"
            >Secret that signs it<input
              type="password"
              autocomplete="new-password"
              bind:value={said.webhook.secret}
              placeholder={r?.webhook.has_secret ? 'is kept' : 'may stay empty'}
            /></label
          >
        </div>
        {@render went('webhook')}
      {/if}
      {#if said.mail.on || said.webhook.on}
        <div class="flex flex-wrap gap-3">
          <label class="field">Quiet from<input type="time" bind:value={said.quiet_from} /></label>
          <label class="field">until<input type="time" bind:value={said.quiet_to} /></label>
          <label class="field">Links lead to<input type="url" bind:value={said.address} /></label>
        </div>
      {/if}
      <ProblemNote problem={act.problem} />
      <div class="flex flex-wrap items-center gap-3">
        <button class="btn btn-primary">Save</button>
        {#if r?.mail.on}<button type="button" class="btn btn-outline btn-primary" onclick={() => send('mail')}
            >Send a trial mail</button
          >{/if}
        {#if r?.webhook.on}<button type="button" class="btn btn-outline btn-primary" onclick={() => send('webhook')}
            >Try the webhook</button
          >{/if}
        {#if kept}<span role="status">Saved.</span>{/if}
        {#if sent}<span role="status"
            ><b>The {sent === 'mail' ? 'mail server' : 'webhook'} has taken it.</b>{sent === 'mail'
              ? ' See whether it arrives.'
              : ''}</span
          >{/if}
      </div>
      <ProblemNote problem={trial.problem} />
    </form>
  {/if}
</Fold>

<style>
  .narrow input {
    width: 110px;
  }
</style>
