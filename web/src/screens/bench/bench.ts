// One machine of the bench, asked for by itself.
import { ask, client, type BenchMachine } from '../../data/api'

/** The machine as it stands on the bench now; undefined where it is not there any more. */
export async function again(machine: string): Promise<BenchMachine | undefined> {
  return (await ask(client.GET('/bench', { params: { query: { machine_id: machine } } }))).machines[0]
}
