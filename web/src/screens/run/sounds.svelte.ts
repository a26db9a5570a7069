// The sounds of a run, made here: told apart by rhythm as well as by pitch.
// A browser keeps them back until somebody has touched the page.

export type Sound = 'on' | 'off' | 'ready' | 'overdue'

// each note: begins at, lasts, hertz
const notes: Record<Sound, [number, number, number][]> = {
  on: [
    [0, 0.12, 660],
    [0.14, 0.2, 990],
  ],
  off: [[0, 0.45, 290]],
  ready: [
    [0, 0.08, 780],
    [0.16, 0.08, 780],
    [0.32, 0.08, 780],
  ],
  overdue: [
    [0, 0.18, 520],
    [0.22, 0.18, 390],
    [0.44, 0.18, 520],
    [0.66, 0.18, 390],
  ],
}

const kept = { muted: 'freshanvil.muted', volume: 'freshanvil.volume' }

function read(key: string): string | null {
  try {
    return localStorage.getItem(key)
  } catch {
    return null
  }
}

function write(key: string, value: string) {
  try {
    localStorage.setItem(key, value)
  } catch {
    // it holds until the page is left
  }
}

/** What was played or would have been, the newest last; tests read it. */
type Played = { sound: Sound; at: number; muted: boolean }
declare global {
  interface Window {
    freshAnvilSounds?: Played[]
  }
}

export class Sounds {
  muted = $state(read(kept.muted) === 'yes')
  volume = $state(Number(read(kept.volume) ?? 0.6))
  /** The browser waits for a touch. */
  asleep = $state(true)
  /** The screen cannot be kept awake here. */
  dark = $state(false)

  #audio: AudioContext | undefined
  #last = ''
  #lock: WakeLockSentinel | undefined

  constructor() {
    const wake = () => void this.#wake()
    window.addEventListener('pointerdown', wake)
    window.addEventListener('keydown', wake)
  }

  async #wake() {
    try {
      this.#audio ??= new AudioContext()
      if (this.#audio.state === 'suspended') await this.#audio.resume()
      this.asleep = this.#audio.state !== 'running'
    } catch {
      this.asleep = true
    }
  }

  /** Plays a sound once for a moment; the same moment again is silent. */
  play(sound: Sound, moment: string) {
    const once = `${sound} ${moment}`
    if (once === this.#last) return
    this.#last = once
    const list = (window.freshAnvilSounds ??= [])
    list.push({ sound, at: performance.now(), muted: this.muted })
    if (list.length > 100) list.shift()
    const audio = this.#audio
    if (this.muted || !audio || audio.state !== 'running') return
    for (const [begins, lasts, hertz] of notes[sound]) {
      const tone = audio.createOscillator()
      const gain = audio.createGain()
      const from = audio.currentTime + begins
      tone.frequency.value = hertz
      gain.gain.setValueAtTime(0, from)
      gain.gain.linearRampToValueAtTime(this.volume * 0.5, from + 0.015)
      gain.gain.setValueAtTime(this.volume * 0.5, from + lasts - 0.02)
      gain.gain.linearRampToValueAtTime(0, from + lasts)
      tone.connect(gain).connect(audio.destination)
      tone.start(from)
      tone.stop(from + lasts + 0.02)
    }
  }

  mute(muted: boolean) {
    this.muted = muted
    write(kept.muted, muted ? 'yes' : 'no')
  }

  louder(volume: number) {
    this.volume = volume
    write(kept.volume, String(volume))
  }

  /** Keeps the screen awake while a run goes on; says so where it cannot. */
  keepAwake(on: boolean): () => void {
    if (!on) return () => {}
    const ask = async () => {
      if (document.visibilityState !== 'visible') return
      try {
        if (!('wakeLock' in navigator)) throw new Error('not here')
        this.#lock = await navigator.wakeLock.request('screen')
        this.dark = false
      } catch {
        this.dark = true
      }
    }
    void ask()
    document.addEventListener('visibilitychange', ask)
    return () => {
      document.removeEventListener('visibilitychange', ask)
      void this.#lock?.release()
      this.#lock = undefined
    }
  }
}
