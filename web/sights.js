// Draws every sight once and writes its shapes as data, for what prints without a browser: internal/report. It reads
// the sights and verdicts, a pair a line, from its input. `make sights` runs it.
import { readFileSync } from 'node:fs'
import svgpath from 'svgpath'
import { parseSync } from 'svgson'
import { createServer } from 'vite'

const vite = await createServer({
  server: { middlewareMode: true, ws: false },
  appType: 'custom',
  logLevel: 'error',
})
const { default: Picture } = await vite.ssrLoadModule('/src/ui/sights/SightPicture.svelte')
const { render } = await vite.ssrLoadModule('svelte/server')

const round = (n) => Math.round(n * 10) / 10

/** A path in absolute M, L, C and Z only. */
function plain(d, transform) {
  const path = svgpath(d).transform(transform).abs().unshort().unarc()
  let out = ''
  path.iterate((s, _i, x, y) => {
    const to = s.slice(1)
    if (s[0] === 'H') out += `L${round(to[0])} ${round(y)}`
    else if (s[0] === 'V') out += `L${round(x)} ${round(to[0])}`
    else if (s[0] === 'Q') {
      const [qx, qy, ex, ey] = to
      const third = (a, b) => a + ((b - a) * 2) / 3
      out += `C${[third(x, qx), third(y, qy), third(ex, qx), third(ey, qy), ex, ey].map(round).join(' ')}`
    } else out += `${s[0] === 'z' ? 'Z' : s[0]}${to.map(round).join(' ')}`
  })
  return out
}

const attr = (a, name) => Number(a[name] ?? 0)
function outline(name, a) {
  if (name === 'path') return a.d
  if (name === 'rect')
    return `M${attr(a, 'x')} ${attr(a, 'y')} h${attr(a, 'width')} v${attr(a, 'height')} h${-attr(a, 'width')} Z`
  const rx = attr(a, name === 'circle' ? 'r' : 'rx')
  const ry = attr(a, name === 'circle' ? 'r' : 'ry')
  const [x, y] = [attr(a, 'cx'), attr(a, 'cy')]
  return `M${x - rx} ${y} a${rx} ${ry} 0 1 0 ${2 * rx} 0 a${rx} ${ry} 0 1 0 ${-2 * rx} 0 Z`
}

/** What a shape looks like, by its classes and attributes. */
function look(a) {
  const classes = (a.class ?? '').split(/\s+/)
  const has = (c) => classes.includes(c)
  const out = {}
  const pattern = /^url\(#.*-(\w+)\)$/.exec(a.fill ?? '')
  if (pattern) out.fill = pattern[1]
  if (has('paper') || has('ground')) out.fill = 'paper'
  if (has('solid')) out.fill = 'ink'
  if (has('drop')) out.fill = 'act'
  if (a.stroke !== 'none' && !has('drop')) {
    out.ink = has('water') ? 'act' : has('limit') ? 'stop' : has('faint') ? 'rule' : 'ink'
    out.width = has('thin') ? 2.5 : Number(a['stroke-width'] ?? 4)
    if (a['stroke-dasharray']) out.dash = a['stroke-dasharray'].split(/[ ,]+/).map(Number)
  }
  return out
}

function collect(node, transform, shapes) {
  if (node.name === 'defs') return
  const a = node.attributes
  const here = [transform, a.transform].filter(Boolean).join(' ')
  if (['path', 'rect', 'circle', 'ellipse'].includes(node.name))
    shapes.push({ d: plain(outline(node.name, a), here), ...look(a) })
  for (const child of node.children) collect(child, here, shapes)
}

const lines = []
for (const line of readFileSync(0, 'utf8').split('\n').filter(Boolean)) {
  const [sight, verdict] = line.split(' ')
  const { body } = render(Picture, { props: { sight, verdict } })
  const shapes = []
  collect(parseSync(body.replace(/<!--.*?-->/gs, '')), '', shapes)
  if (shapes.length === 0) throw new Error(`${sight} ${verdict}: nothing is drawn`)
  lines.push(`${JSON.stringify(`${sight} ${verdict}`)}: [\n${shapes.map((s) => JSON.stringify(s)).join(',\n')}\n]`)
}
console.log(`{\n${lines.join(',\n')}\n}`)
await vite.close()
