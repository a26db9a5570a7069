<!-- The machine as the model believes it to be: what is drawn from, the boilers with level, warmth and gas, what
     catches what comes out. Areas are volumes; acid is hatched, water waved. Between two events the page draws on. -->
<script lang="ts">
  import type { Schemas } from '../../data/api'
  import { amount, figure, round } from '../../ui/format'

  let { descale, now, moving = false }: { descale: Schemas['RunDescale']; now: number; moving?: boolean } = $props()
  const id = $props.id()
  type Now = Schemas['VesselNow']
  const columns = [['source'], ['brew', 'tube', 'steam'], ['catch']] as const
  const tall = 66
  // where the present segment has states ahead, the page draws between the two around now
  const between = $derived.by(() => {
    const f = descale.frames
    const last = f[f.length - 1]
    const i = f.findIndex((x) => Date.parse(x.at) > now)
    const b = i < 0 ? last : f[i]
    const a = i < 0 ? last : f[Math.max(0, i - 1)]
    if (f.length < 2 || !a || !b) return undefined
    const [from, to] = [Date.parse(a.at), Date.parse(b.at)]
    return { a, b, share: to > from ? Math.max(0, (now - from) / (to - from)) : 1 }
  })
  function moved(v: Now): Now {
    const a = between?.a.vessels.find((x) => x.id === v.id)
    const b = between?.b.vessels.find((x) => x.id === v.id)
    if (!between || !a || !b) return v
    const at = (from: number, to: number) => from + (to - from) * between.share
    return {
      ...v,
      sour: a.sour || b.sour,
      heater_on: a.heater_on,
      litres: at(a.litres, b.litres),
      acid: at(a.acid, b.acid),
      temp_c: at(a.temp_c, b.temp_c),
      gauge_bar: at(a.gauge_bar, b.gauge_bar),
    }
  }
  const vessels = $derived(descale.vessels.map(moved))
  const of = (kinds: readonly string[]) => vessels.filter((v) => kinds.includes(v.kind))
  const scale = $derived(
    tall /
      Math.sqrt(
        Math.max(...descale.vessels.filter((v) => v.kind !== 'source').map((v) => Math.min(v.holds_l, 8)), 0.5),
      ),
  )
  const side = (v: Now) => Math.min(90, Math.max(26, Math.sqrt(v.holds_l) * scale))
  const circuit = (v: Now) => v.kind === 'brew' || v.kind === 'tube' || v.kind === 'steam'
  const what = (v: Now) =>
    v.litres < 0.005
      ? 'empty'
      : v.sour
        ? v.acid < 0.01
          ? 'a trace of acid'
          : `acid, ${round(v.acid * 100)} %`
        : 'water'
  const warmth = (v: Now) =>
    [
      `${round(v.temp_c)} °C`,
      v.heater_on && 'heats',
      v.gauge_bar > 0.3 && `${v.temp_c > 100 ? 'steam' : 'gas'} ${figure(v.gauge_bar)} bar`,
    ]
      .filter(Boolean)
      .join(', ')
  const ways = (v: Now) => v.openings.filter((o) => o.open).map((o) => `${o.title} open`)
</script>

<div
  class="map"
  role="img"
  aria-label={vessels
    .map(
      (v) =>
        `${v.title}: ${v.litres.toFixed(2)} of ${v.holds_l.toFixed(2)} litres, ` +
        [what(v), ...(circuit(v) ? [warmth(v)] : []), ...ways(v)].join(', '),
    )
    .join('; ')}
>
  {#each columns as kinds, i (i)}
    {#if i > 0}
      <svg
        class="arrow"
        class:last={i === 2}
        class:go={descale.pump && moving}
        class:moving
        width="56"
        height="20"
        viewBox="0 0 56 20"
        aria-hidden="true"
        ><path d="M2 10H48M40 3l10 7-10 7" fill="none" stroke="currentColor" stroke-width="4" /></svg
      >
    {/if}
    <div class="kind" class:catches={i === 2}>
      {#each of(kinds) as v (v.id)}
        {@const s = side(v)}
        {@const level = s * Math.min(1, v.litres / v.holds_l)}
        <figure class:touched={v.touched}>
          <svg width={s + 4} height={s + 4} aria-hidden="true">
            <defs>
              <pattern
                id="{id}-acid"
                width="7"
                height="7"
                patternUnits="userSpaceOnUse"
                patternTransform="rotate(45)"><path d="M1 0V7" stroke="currentColor" stroke-width="2.4" /></pattern
              >
              <pattern id="{id}-water" width="14" height="8" patternUnits="userSpaceOnUse"
                ><path d="M0 4q3.5-5 7 0t7 0" fill="none" stroke="currentColor" stroke-width="1.5" /></pattern
              >
            </defs>
            <rect
              class:acid={v.sour}
              x="2"
              y={2 + s - level}
              width={s}
              height={level}
              fill="url(#{id}-{v.sour ? 'acid' : 'water'})"
            />
            <path d="M2 {2 + s - level}H{2 + s}" class="level" />
            <rect x="2" y="2" width={s} height={s} fill="none" stroke="currentColor" stroke-width="3" />
          </svg>
          <figcaption>
            <b>{v.title}</b><br />{amount(v.litres, 'L')}{v.holds_l < 50 ? ` of ${amount(v.holds_l, 'L')}` : ''}<br
            />{what(v)}{#if circuit(v)}<br />{warmth(v)}{/if}{#each ways(v) as w}<br />{w}{/each}
          </figcaption>
        </figure>
      {/each}
    </div>
  {/each}
</div>

<style>
  .map {
    display: flex;
    flex-wrap: wrap;
    align-items: flex-end;
    gap: 8px 16px;
  }
  .kind {
    display: flex;
    align-items: flex-end;
    gap: 8px 20px;
  }
  figcaption {
    margin-top: 3px;
    min-height: 3.5em;
  }
  figcaption {
    font-size: 14px;
    line-height: 1.25;
    font-stretch: 80%;
  }
  .touched figcaption b {
    text-decoration: underline;
    text-decoration-thickness: 2px;
    text-underline-offset: 2px;
  }
  .acid {
    color: var(--color-stop);
  }
  .level {
    stroke: var(--color-act);
    stroke-width: 3;
  }
  .arrow {
    margin-bottom: 70px;
    opacity: 0.25;
  }
  .arrow.go {
    opacity: 1;
    color: var(--color-act);
  }
  :global(.inverse) .arrow.go,
  :global(.inverse) .level {
    color: currentColor;
    stroke: currentColor;
  }
  :global(.inverse) .acid {
    color: currentColor;
  }
  @media (prefers-reduced-motion: no-preference) {
    .arrow.moving.go {
      animation: flow 1s linear infinite;
    }
  }
  @keyframes flow {
    from {
      transform: translateX(-6px);
    }
    to {
      transform: translateX(6px);
    }
  }
  @media (max-width: 600px) {
    .map {
      gap: 6px;
    }
    .catches {
      flex-basis: 100%;
      align-items: flex-start;
    }
    .arrow.last {
      display: none;
    }
    figcaption {
      white-space: nowrap;
    }
    figcaption b {
      display: inline-block;
      max-width: 100px;
      white-space: normal;
    }
    .kind {
      gap: 6px 10px;
    }
    figure svg {
      zoom: 0.6;
    }
    figcaption {
      font-size: 12px;
      font-stretch: 72%;
    }
    .arrow {
      width: 24px;
      flex: none;
      margin-bottom: 56px;
    }
  }
</style>
