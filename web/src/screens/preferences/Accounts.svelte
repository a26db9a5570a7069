<!-- Who may do what, and by which passphrase they come in: the owner says so. -->
<script lang="ts">
  import { ask, client, type Schemas } from '../../data/api'
  import { Resource } from '../../data/resource.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  type Role = Schemas['Role']
  const page = new Resource<Schemas['Accounts']>()
  const means: Record<Role, string> = {
    onlooker: 'onlooker: sees everything',
    closer: 'closer: logs, leads, closes',
    keeper: 'keeper: machines, water, schools',
    owner: 'owner: lets others in',
  }
  let fresh = $state<Record<string, string>>({})
  $effect(() => void page.ask((signal) => ask(client.GET('/accounts', { signal }))))
  const set = (person_id: string, role: Role, passphrase?: string) =>
    page.try(async () => {
      const body = { role, ...(passphrase && { passphrase }) }
      page.show(await ask(client.PUT('/accounts/{person_id}', { params: { path: { person_id } }, body })))
      fresh[person_id] = ''
    })
</script>

<h2 class="head-voice text-[24px]">Who may do what</h2>
<p class="mb-2">Who has a passphrase logs in. The others are names for the close list.</p>
<ul class="border-rule border-t">
  {#each page.value?.accounts ?? [] as x (x.id)}
    <li class="border-rule flex flex-wrap items-end gap-3 border-b py-2">
      <b class="min-w-24 self-center">{x.name}</b>
      <select
        value={x.role}
        aria-label="What {x.name} may do"
        onchange={(e) => set(x.id, e.currentTarget.value as Role)}
      >
        {#each Object.entries(means) as [role, text] (role)}<option value={role}>{text}</option>{/each}
      </select>
      <form
        class="flex flex-wrap items-end gap-3"
        onsubmit={(e) => {
          e.preventDefault()
          void set(x.id, x.role, fresh[x.id])
        }}
      >
        <input
          class="w-56"
          type="password"
          autocomplete="new-password"
          maxlength="200"
          bind:value={fresh[x.id]}
          aria-label="A passphrase for {x.name}"
          placeholder={x.logs_in ? 'a new passphrase' : 'a passphrase, to log in'}
        />
        <button class="btn btn-outline btn-primary" disabled={!fresh[x.id]}>Save</button>
      </form>
    </li>
  {/each}
</ul>
<ProblemNote problem={page.problem} />
