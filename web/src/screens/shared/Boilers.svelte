<!-- What goes on in a machine's boilers: salts, draws, gauge and thermometer, heat under scale, cooling. Asked for
     when it is opened. -->
<script lang="ts">
  import { scaleLinear } from 'd3-scale'
  import { area, line } from 'd3-shape'
  import { ask, client, type Schemas } from '../../data/api'
  import { Act } from '../../data/resource.svelte'
  import Cooling from './Cooling.svelte'
  import { amount, round, short } from '../../ui/format'
  import Fold from '../../ui/Fold.svelte'
  import Num from '../../ui/Num.svelte'
  import ProblemNote from '../../ui/ProblemNote.svelte'

  let { machine, zone, onkept }: { machine: string; zone: string; onkept?: () => void } = $props()
  let shown = $state(false)
  let life = $state<Schemas['BoilerLife']>()
  const act = new Act()
  let thermometer = $state<number | null>(null)
  let gauge = $state<number | null>(null)
  let found = $state<Schemas['SaturationAnswer']>()
  const id = $props.id()

  const path = $derived({ params: { path: { machine_id: machine } } })
  const open = () =>
    act.try(async () => {
      life = await ask(client.GET('/machines/{machine_id}/boiler', path))
      gauge = life.gauge_bar ?? null
    })
  const compare = () =>
    act.try(
      async () =>
        void (found = await ask(
          client.POST('/machines/{machine_id}/boiler/saturation', {
            ...path,
            body: { gauge_bar: gauge ?? 0, thermometer_c: thermometer ?? 0 },
          }),
        )),
    )

  const width = 420
  const height = 200
  const edge = { left: 44, right: 28, top: 12, bottom: 38 }
  type Hot = Schemas['HotterBy']
  type Point = Hot['points'][number]
  const x = (h: Hot) => scaleLinear([0, h.points.at(-1)!.mm], [edge.left, width - edge.right])
  const y = (h: Hot) => scaleLinear([0, h.points.at(-1)!.high], [height - edge.bottom, edge.top])
</script>

<Fold
  title="In its boilers"
  bind:open={
    () => shown,
    (on) => {
      shown = on
      if (on && !life) void open()
    }
  }
>
  <ProblemNote
    problem={act.problem}
    take={(m, field) => {
      if (field === 'gauge_bar') gauge = m.value
      else thermometer = m.value
      void compare()
    }}
  />
  {#if life}
    {@const b = life}
    <div class="parts">
      {#if b.concentrated}
        <section>
          <h3 class="head-voice text-[20px]">What steam leaves behind</h3>
          <p>
            A week after it was filled anew, the salts in the steam boiler are <b
              ><Num worked={b.concentrated} text="{short(b.concentrated.value)} times" /></b
            > the feed.
          </p>
          {#if b.to_draw}<p class="mt-1">
              Draw <b><Num worked={b.to_draw} text={amount(b.to_draw.value, 'L')} /></b> of hot water a day by the tap,
              and they stay below three times. Empty it before it is switched off for long.
            </p>{/if}
          {#if b.renews && b.draw_l}<p class="mt-1">
              {b.draws} draws of {amount(b.draw_l, 'L')}, pressure back between, renew
              <b><Num worked={b.renews} text="{round(b.renews.value * 100)} %" /></b> of it.
            </p>{/if}
        </section>
      {/if}
      {#if b.boils_c}
        <section>
          <h3 class="head-voice text-[20px]">Gauge and thermometer</h3>
          <p>
            At {short(b.gauge_bar ?? 0)} bar steam is <b>{round(b.boils_c)} °C</b>. A thermometer on the boiler that
            differs means trapped air or a wrong gauge.
          </p>
          <form
            class="mt-2 flex flex-wrap items-end gap-3"
            onsubmit={(e) => {
              e.preventDefault()
              void compare()
            }}
          >
            <label class="field"
              >gauge, bar<input type="number" step="any" min="0" max="6" required bind:value={gauge} /></label
            >
            <label class="field"
              >thermometer, °C<input
                type="number"
                step="any"
                min="0"
                max="200"
                required
                bind:value={thermometer}
              /></label
            >
            <button class="btn btn-outline btn-primary">Compare</button>
          </form>
          {#if found}<div class={found.finding.verdict === 'fine' ? 'mt-2' : 'caution mt-2'} role="status">
              <b>{found.finding.title}.</b>
              {found.finding.because.map((r) => r.text).join(' ')}
              {#each found.finding.next ?? [] as n}<b>{n} </b>{/each}
            </div>{/if}
        </section>
      {/if}
      {#each b.hotter as h (h.title)}
        <section>
          <h3 class="head-voice text-[20px]">Hotter under scale: {h.title}</h3>
          <svg
            viewBox="0 0 {width} {height}"
            class="curve"
            role="img"
            aria-label="At {h.limit_mm} mm its element runs {round(
              h.points.find((q) => q.mm >= h.limit_mm - 1e-9)?.likely ?? 0,
            )} K hotter"
          >
            <defs
              ><pattern
                id="{id}-hatch"
                width="7"
                height="7"
                patternUnits="userSpaceOnUse"
                patternTransform="rotate(45)"
                ><path d="M0 0V7" stroke="currentColor" stroke-width="1.3" opacity="0.55" /></pattern
              ></defs
            >
            <path
              d={area<Point>(
                (q) => x(h)(q.mm),
                (q) => y(h)(q.low),
                (q) => y(h)(q.high),
              )(h.points) ?? ''}
              fill="url(#{id}-hatch)"
            />
            <path
              d={line<Point>(
                (q) => x(h)(q.mm),
                (q) => y(h)(q.likely),
              )(h.points) ?? ''}
              fill="none"
              stroke="currentColor"
              stroke-width="4"
            />
            <line
              x1={x(h)(h.limit_mm)}
              x2={x(h)(h.limit_mm)}
              y1={edge.top}
              y2={height - edge.bottom}
              stroke="var(--color-stop)"
              stroke-width="3"
            />
            <line
              x1={x(h)(h.now_mm)}
              x2={x(h)(h.now_mm)}
              y1={edge.top}
              y2={height - edge.bottom}
              stroke="var(--color-act)"
              stroke-width="2"
              stroke-dasharray="6 5"
            />
            {#each y(h).ticks(3) as t (t)}<text x={edge.left - 6} y={y(h)(t) + 5} text-anchor="end">{t} K</text
              >{/each}
            {#each x(h).ticks(3) as t (t)}<text x={x(h)(t)} y={height - 16} text-anchor="middle">{t} mm</text
              >{/each}
          </svg>
          <p class="text-ink-2 text-[15px]">Blue: now. Red: the limit. Hatched: scale conducts more or less.</p>
        </section>
      {/each}
      <section>
        <h3 class="head-voice text-[20px]">Cooling, once it is switched off</h3>
        <Cooling
          {machine}
          version={b.version}
          cooling={b.cooling}
          {zone}
          onkept={() => {
            void open()
            onkept?.()
          }}
        />
      </section>
    </div>
  {/if}
</Fold>

<style>
  .parts {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(min(100%, 360px), 1fr));
    gap: 20px 36px;
    padding-top: 8px;
  }
  .field input {
    width: 120px;
  }
</style>
