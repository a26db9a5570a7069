<!-- A technician vouches, by name, that nothing is left in a part: no detergent or pressure in a group, no acid in
     the machine. -->
<script lang="ts">
  import { ask, client, newId } from '../../data/api'
  import ByName from './ByName.svelte'
  import { groupOf } from '../../ui/format'

  let {
    machine,
    part,
    what = 'inside',
    onsigned,
  }: { machine: string; part: string; what?: 'inside' | 'stopped'; onsigned: () => void } = $props()
  const group = $derived(groupOf(part))
  const id = newId() // a second press is the same sign-off

  async function sign(name: string, note: string) {
    await ask(
      client.POST('/machines/{machine_id}/sign-offs', {
        params: { path: { machine_id: machine } },
        body: { id, part, name, note, what },
      }),
    )
    onsigned()
  }
</script>

<ByName
  title="Sign off {group > 0 ? `group ${group}` : 'the machine'} as a technician"
  means={what === 'stopped'
    ? 'Only if you have found the cause and mended it: ' +
      'dry under it, its gauge tight, its pressure right, the relief valve shut.'
    : group > 0
      ? 'Only if you have seen to it that no detergent is left and no pressure stands: ' +
        'the group opened, rinsed through, the valve working.'
      : 'Only if you have seen to it that no acid is left: ' +
        'every circuit rinsed, its pH that of the water that goes in.'}
  asks="What was done"
  button={what === 'stopped' ? 'It may be used again: sign off' : 'Nothing is left in it: sign off'}
  whose="keeper"
  send={sign}
/>
