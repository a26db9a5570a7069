// Where the parts of a machine stand in its drawing. The drawing is of a layout, from where its water comes from
// (left) to where it leaves (below right); it is to no scale.
import type { Schemas } from '../data/api'

export type Scheme = Schemas['Scheme']
export type Spot = Schemas['Spot']

/** A line of the drawing: a vessel or a case is a box, everything else a path. */
export type Shape = { spot: Spot; d: string; box?: true; thick?: true; thin?: true; full?: true }
/** Water or heat inside a box. */
export type Inside = { spot: Spot; x: number; y: number; w: number; h: number }
export type Label = { x: number; y: number; w: number }
export type Geometry = {
  shapes: Shape[]
  water: Inside[]
  labels: Partial<Record<Spot, Label>>
  width: number
  height: number
}

const box = (x: number, y: number, w: number, h: number) => `M${x} ${y}h${w}v${h}h${-w}Z`
const coil = (x: number, y: number, w: number) =>
  `M${x} ${y}` + Array.from({ length: Math.floor(w / 24) }, () => 'q6 -14 12 0t12 0').join('')

export function geometry(s: Scheme): Geometry {
  const g: Geometry = { shapes: [], water: [], labels: {}, width: s.groups > 1 ? 860 : 780, height: 440 }
  const line = (spot: Spot, d: string, more: Partial<Shape> = {}) => g.shapes.push({ spot, d, ...more })
  const vessel = (spot: Spot, x: number, y: number, w: number, h: number, level: number) => {
    if (level > 0) g.water.push({ spot, x: x + 3, y: y + h * (1 - level), w: w - 6, h: h * level - 3 })
    line(spot, box(x, y, w, h), { box: true })
  }
  const label = (spot: Spot, x: number, y: number, w = 150) => (g.labels[spot] = { x, y, w })
  const rise = 290
  const many = s.groups > 1

  // what it is drawn from
  if (s.source === 'tank') {
    vessel('tank', 40, 160, 115, 165, 0.68)
    line('tank', 'M155 305H213', {})
    label('tank', 40, 332, 160)
  } else if (s.source === 'mains') {
    line('tank', 'M20 305H68M102 305H213')
    line('tank', 'M68 288V322L102 288V322Z', { box: true })
    label('tank', 30, 332, 160)
  }
  if (s.pump) {
    line('pump', 'M214 305a21 21 0 1 0 42 0a21 21 0 1 0 -42 0Z', { box: true })
    line('pump', 'M228 294V316L246 305Z', { full: true, thin: true })
    line('pump', `M256 305H${rise}`)
    label('pump', 205, 332, 120)
  }

  // what heats it
  const into = (y: number, to: number) => s.source !== 'hand' && line('pump', `M${rise} 305V${y}H${to}`)
  let out = { x: 455, y: 262 } // where brew water leaves
  let steamFrom = { x: 500, y: 60 }
  if (s.brews === 'own') {
    vessel('steam', 340, 30, 150, 118, 0.7)
    line('steam', coil(356, 134, 96), { thin: true })
    into(96, 340)
    label('steam', 340, 152, 150)
    if (!many) {
      vessel('brew', 340, 222, 115, 83, 1)
      line('brew', coil(354, 292, 72), { thin: true })
      into(262, 340)
      label('brew', 330, 312, 165)
    } else label('brew', 330, 205, 130)
    steamFrom = { x: 490, y: 56 }
  } else if (s.brews === 'tube') {
    vessel('steam', 340, 50, 150, 205, 0.7)
    line('steam', coil(356, 240, 96), { thin: true })
    line('brew', 'M340 196H366l10 -14l16 28l16 -28l16 28l16 -28l10 14H490', { thick: true })
    into(92, 340)
    into(196, 340)
    out = { x: 490, y: 196 }
    steamFrom = { x: 490, y: 76 }
    label('steam', 160, 40, 126)
    label('brew', 330, 262, 165)
  } else if (s.brews === 'shared') {
    vessel('brew', 340, 80, 150, 195, s.source === 'hand' ? 0.85 : 1)
    line('brew', coil(356, 260, 96), { thin: true })
    if (s.source === 'hand') line('brew', 'M380 80V66H450V80', { box: true })
    into(240, 340)
    out = { x: 490, y: 230 }
    steamFrom = { x: 490, y: 104 }
    label('brew', 330, 282, 165)
  } else {
    line('brew', box(340, 205, 115, 100), { box: true })
    line('brew', 'M340 222H432q12 0 12 12t-12 12H364q-12 0 -12 12t12 12H432q12 0 12 12t-12 12H455', { thin: true })
    into(222, 340)
    out = { x: 455, y: 262 }
    steamFrom = { x: 397, y: 205 }
    label('brew', 330, 312, 165)
  }

  // where it leaves
  if (!many) {
    line('brew', out.y === 262 ? `M${out.x} 251H530` : `M${out.x} ${out.y}H512V251H530`)
    line('group', box(530, 235, 92, 34), { box: true })
    line('group', box(542, 269, 68, 16), { box: true })
    line('group', 'M610 277H702', { thick: true })
    if (s.lever === 'starts') line('group', 'M622 246L664 222', { thick: true })
    if (s.lever === 'presses') line('group', 'M576 235V190L690 100', { thick: true })
    label('group', 640, s.lever === 'starts' ? 146 : 168, 138)
    if (s.valve !== 'none') {
      line('valve', 'M530 262H512V350')
      line('valve', 'M501 318a11 11 0 1 0 22 0a11 11 0 1 0 -22 0Z', { box: true, full: true })
      label('valve', 532, 306, 190)
    }
  } else {
    const shown = Math.min(s.groups, 3)
    const step = shown === 2 ? 120 : 80
    const from = 500
    line(
      'brew',
      `M${s.brews === 'own' ? rise : out.x} ${s.brews === 'own' ? 190 : 196}H${from + step * (shown - 1) + 32}`,
    )
    if (s.brews === 'own' && s.source !== 'hand') line('pump', `M${rise} 305V190`)
    for (let i = 0; i < shown; i++) {
      const x = from + step * i
      if (s.brews === 'own') {
        line('brew', `M${x + 32} 190V200`)
        vessel('brew', x, 200, 64, 46, 1)
        line('brew', `M${x + 32} 246V262`)
      } else line('brew', `M${x + 32} 196V262`)
      line('group', box(x, 262, 64, 28), { box: true })
      line('group', box(x + 10, 290, 44, 14), { box: true })
      line('group', `M${x + 32} 304V322`, { thick: true })
    }
    label('group', from + step * (shown - 1) + 76, 256, 150)
    if (s.valve !== 'none') label('valve', 332, 338, 140)
  }

  // steam and hot water
  if (s.wand) {
    const x = many ? 800 : 690
    line(
      'wand',
      s.brews === 'block' ? `M${steamFrom.x} ${steamFrom.y}V66H${x}V84` : `M${steamFrom.x} ${steamFrom.y}H${x}V84`,
    )
    line('wand', `M${x} 84V118q0 22 14 38`, { thick: true })
    label('wand', x - 132, 84, 122)
  }
  if (s.tap) {
    line('tap', `M490 ${s.brews === 'tube' ? 122 : 118}H532V140`)
    line('tap', `M524 140H540L532 156Z`, { full: true, thin: true })
    label('tap', 506, s.brews === 'tube' ? 158 : 158, 130)
  }
  if (s.tray) line('tray', box(482, 352, 250, 30), { box: true })
  else line('tray', 'M482 352L504 374H714L736 352M610 374V400')
  label('tray', 482, s.tray ? 388 : 384, 120)
  return g
}
