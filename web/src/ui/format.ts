// How numbers and dates are written, as preferred. Nothing is decided here.
import type { Schemas, Standing, Worked } from '../data/api'
import { prefs } from '../data/state.svelte'

/** The zone of this browser, which may name none. */
export const localZone = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

const number = (digits: number) => new Intl.NumberFormat('en-GB', { maximumFractionDigits: digits })
const whole = number(0)
const one = number(1)
const two = number(2)

/** As many figures as a person can use. */
export function figure(value: number): string {
  const size = Math.abs(value)
  if (size >= 10) return whole.format(value)
  return size >= 1 ? one.format(value) : two.format(value)
}

export const short = (value: number): string => one.format(value)
export const round = (value: number): string => whole.format(value)

// US customary: fluid ounces and quarts, avoirdupois ounces and pounds
const customary: Record<string, { unit: string; per: number }> = {
  mL: { unit: 'fl oz', per: 1 / 29.5735 },
  L: { unit: 'qt', per: 1 / 0.946353 },
  g: { unit: 'oz', per: 1 / 28.3495 },
  kg: { unit: 'lb', per: 1 / 0.453592 },
}

/** A value in the preferred system, and the unit that goes with it. */
export function preferred(value: number, unit: string): { value: number; unit: string } {
  const to = prefs.units === 'us' ? customary[unit] : undefined
  return to ? { value: value * to.per, unit: to.unit } : { value, unit }
}

/** A value with its unit, as preferred. */
export function amount(value: number, unit: string): string {
  const p = preferred(value, unit)
  return `${figure(p.value)} ${p.unit}`.trim()
}

// what is poured, as a person pours it: to 10 mL below a litre, else to 0.1 L
export const poured = (l: number): string =>
  amount(l >= 0.995 ? Math.round(l * 10) / 10 : Math.round(l * 100) / 100, 'L')

/** A value, or an end of its range, told as finely as core says it is worth. */
export function told(w: Worked, value = w.value): string {
  const p = preferred(value, w.unit)
  const own = Math.abs(preferred(w.value, w.unit).value)
  const step = p.unit === w.unit ? w.step : 10 ** (Math.floor(Math.log10(own || 1)) - 1) // as fine, in the other system
  const digits = Math.max(0, Math.round(-Math.log10(step)))
  return new Intl.NumberFormat('en-GB', { maximumFractionDigits: Math.min(6, digits) }).format(
    Math.round(p.value / step) * step,
  )
}

/** As finely as it is worth, in its own unit: where a heading names that. */
export const plainly = (w: Worked): string =>
  new Intl.NumberFormat('en-GB', { maximumFractionDigits: Math.max(0, Math.round(-Math.log10(w.step))) }).format(
    Math.round(w.value / w.step) * w.step,
  )

export const worked = (w: Worked): string => `${told(w)} ${preferred(w.value, w.unit).unit}`.trim()

// what is no more than a guess of a price is not told to the penny
export const money = (value: number): string =>
  new Intl.NumberFormat('en-GB', {
    style: 'currency',
    currency: prefs.currency,
    ...(Math.abs(value) >= 10 && { maximumFractionDigits: 0 }),
  }).format(value)

const formats = new Map<string, Intl.DateTimeFormat>()
function inZone(iso: string, zone: string, options: Intl.DateTimeFormatOptions): string {
  const key = zone + JSON.stringify(options)
  let format = formats.get(key)
  if (!format) {
    format = new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options })
    formats.set(key, format)
  }
  return format.format(new Date(iso))
}

export const day = (iso: string, zone: string): string => inZone(iso, zone, { day: 'numeric', month: 'long' })
/** The year of a date, where it is not this one. */
export function otherYear(iso: string, zone: string): string {
  const year = inZone(iso, zone, { year: 'numeric' })
  return year === inZone(new Date().toISOString(), zone, { year: 'numeric' }) ? '' : year
}

/** A date with its year, where that is not this one. */
export const dated = (iso: string, zone: string): string => `${day(iso, zone)} ${otherYear(iso, zone)}`.trimEnd()

/** One, two and three. */
export const listed = (words: string[]): string =>
  [words.slice(0, -1).join(', '), words.at(-1)].filter(Boolean).join(' and ')

/** A stretch of days, as a person says it. */
export function span(days: number): string {
  if (days >= 3650) return 'no end'
  if (days >= 5 * 365) return `${whole.format(days / 365)} years`
  if (days >= 360 && days < 371) return 'a year'
  if (days >= 55) return `${whole.format(days / 30.4)} months`
  if (days >= 14) return `${whole.format(days / 7)} weeks`
  const n = whole.format(days)
  return `${n} ${n === '1' ? 'day' : 'days'}`
}

export const dayShort = (iso: string, zone: string): string => inZone(iso, zone, { day: 'numeric', month: 'short' })
export const month = (iso: string, zone: string): string => inZone(iso, zone, { month: 'long', year: 'numeric' })
/** A day of the log; with its year, where that is not this one. */
export const weekday = (iso: string, zone: string): string =>
  inZone(iso, zone, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    ...(otherYear(iso, zone) && { year: 'numeric' }),
  })
export const clock = (iso: string, zone: string): string =>
  inZone(iso, zone, {
    hour: prefs.clock === '12' ? 'numeric' : '2-digit',
    minute: '2-digit',
    hour12: prefs.clock === '12',
  })
export const stamp = (iso: string, zone: string): string => `${weekday(iso, zone)}, ${clock(iso, zone)}`

/** The range of a date, such as "5 – 14 Dec"; empty where it is one day. */
export function range(due: Pick<Standing, 'earliest' | 'latest'>, zone: string): string {
  const [from, month] = dayShort(due.earliest, zone).split(' ')
  const to = dayShort(due.latest, zone)
  if (`${from} ${month}` === to) return ''
  return (to.endsWith(` ${month}`) ? `${from} – ${to}` : `${from} ${month} – ${to}`).replaceAll(' ', '\u00a0')
}

/** An interval in words: every 50 shots, 1 kg of coffee or 30 days. */
export function every(i: Schemas['Interval']): string {
  if (i.daily) return 'every day, after the last drink'
  const parts: string[] = []
  if (i.shots) parts.push(`${round(i.shots)} shots`)
  if (i.coffee_g) parts.push(`${amount(i.coffee_g / 1000, 'kg')} of coffee`)
  if (i.counter) parts.push(`${round(i.counter)} on the counter`)
  if (i.litres) parts.push(`${amount(i.litres, 'L')} of water`)
  if (i.days) parts.push(`${round(i.days)} days`)
  const last = parts.pop() ?? ''
  return `every ${parts.length ? parts.join(', ') + ' or ' : ''}${last}${parts.length ? ', whichever comes first' : ''}`
}

export const treatments: Record<Schemas['Answers']['treatment'], string> = {
  none: 'nothing',
  jug: 'filter jug',
  in_tank: 'filter in the tank',
  under_sink: 'filter under the sink',
  softener: 'softener with salt',
  reverse_osmosis: 'reverse osmosis',
  bottled: 'bottled water',
}

export const hardnessUnits: { id: Schemas['Preferences']['hardness']; text: string }[] = [
  { id: 'dh', text: '°dH' },
  { id: 'fh', text: '°fH' },
  { id: 'clark', text: '°e (Clark)' },
  { id: 'gpg', text: 'gpg' },
  { id: 'mg_l_caco3', text: 'mg/L CaCO3 (ppm)' },
  { id: 'mmol_l', text: 'mmol/L' },
]

/** A source in words, its mark first. */
export function source(s: Schemas['Source']): string {
  const mark = marks[s.kind]
  return s.which.startsWith(mark) ? s.which : `${mark}: ${s.which}`
}

export const marks: Record<Schemas['Source']['kind'], string> = {
  published: 'published',
  practice: 'common practice',
  model: 'assumption',
  given: 'given',
}

/** The start of a day as picked. */
export const dayStart = (date: string): string => new Date(`${date}T00:00`).toISOString()

/** Noon of a day as picked, or now where that is still to come: before noon "today" is past, too. */
export function during(date: string): string {
  return new Date(
    Math.min(Date.parse(`${date}T12:00`), Math.max(Date.now(), Date.parse(`${date}T00:00`))),
  ).toISOString()
}

/** What a range means, in words. */
export const spreads: Record<NonNullable<Worked['spread']>, string> = {
  chance: 'eight times out of ten',
  bounds: 'as far as what nobody has measured may reach',
  tolerance: 'as exactly as it was read',
}

/** How brown the first discharge was, in words. */
export const firsts: Record<string, string> = {
  clear: 'clear',
  pale: 'pale',
  brown: 'brown',
  dark: 'dark',
  unseen: 'not seen',
}

/** What is left of the detergent: so little that a figure would mislead is said in words. */
export const residue = (w: Worked): string => (w.value < 1 ? 'under 1 mg/L' : worked(w))

/** The number of the group that a part is; 0 where it is another part or the whole machine. */
export const groupOf = (part: string): number => (part.startsWith('group-') ? Number(part.slice(6)) : 0)

/** The parts of a machine's groups. */
export const groupParts = (count: number): string[] => Array.from({ length: count }, (_, i) => `group-${i + 1}`)

/** The whole machine as a part. */
export const theMachine = 'machine'

/** Groups in words: group 1; groups 1 and 2. */
export function inWords(parts: string[]): string {
  const groups = parts.map(groupOf)
  if (groups.length < 2) return `group ${groups[0]}`
  return `groups ${groups.slice(0, -1).join(', ')} and ${groups.at(-1)}`
}

/** A length of time as it is waited for. */
export function inHours(s: number): string {
  const m = Math.ceil(s / 60)
  if (m < 60) return `${m} min`
  return m % 60 === 0 ? `${m / 60} h` : `${Math.floor(m / 60)} h ${m % 60} min`
}

/** Minutes as a plan tells them: in hours from an hour and a half on. */
export function lasting(minutes: number): string {
  const m = Math.round(minutes)
  return m >= 90 ? `${Math.floor(m / 60)} h ${String(m % 60).padStart(2, '0')}` : `${m} min`
}

/** An amount as it is measured out: by the mark or the scale, no finer. */
export const measured = (w: Worked): string =>
  w.unit === 'sachets'
    ? `${round(w.value)} ${w.value === 1 ? 'sachet' : 'sachets'}`
    : amount(w.value >= 10 ? Math.round(w.value) : w.value, w.unit)
