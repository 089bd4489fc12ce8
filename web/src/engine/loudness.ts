/** How loud auditioned notes are: as their exact pictures tell, or one that is drawn for it beside the others. */
import type { Listening } from './generated/Listening'
import type { PictureOf } from './generated/PictureOf'
import { Superseded, type Pictures, type Unfolded } from './pictures'
import { WHOLE } from '../draw/axis'

/** Sounds whose loudness is kept. */
const KEPT = 32

export interface Loudness {
  /** Keeps what a picture tells. */
  learn(of: PictureOf, picture: Unfolded): void
  /** In LUFS; of several for the same purpose only the newest is answered. What somebody waits for with open ears is urgent. */
  of(text: string, listening: Listening, purpose: string, urgent?: boolean): Promise<number>
}

export function makeLoudness(draw: Pictures['ask']): Loudness {
  /** In LUFS, by what is heard; the one used last is the last. */
  const known = new Map<string, number>()
  const soundOf = (of: Pick<PictureOf, 'text' | 'listening'>) => JSON.stringify([of.text, of.listening])
  function keep(sound: string, lufs: number) {
    known.delete(sound)
    known.set(sound, lufs)
    for (const oldest of [...known.keys()].slice(0, Math.max(0, known.size - KEPT))) known.delete(oldest)
  }
  return {
    learn(of, picture) {
      if (of.detail === 'fine' && !of.phrase && !of.voice) keep(soundOf(of), picture.level.loudness_lufs)
    },
    async of(text, listening, purpose, urgent) {
      const of: PictureOf = { text, listening, exponent: 1, detail: 'fine', phrase: false, aside: true, voice: false, effect: null, span: { ...WHOLE } }
      const sound = soundOf(of)
      if (!known.has(sound)) {
        const wish = { of: () => of, detail: of.detail, aside: true, urgent, needless: () => known.has(sound) }
        await draw(wish, `loudness of ${purpose}`, false).catch((error: unknown) => {
          if (!(error instanceof Superseded && known.has(sound))) throw error
        })
      }
      const lufs = known.get(sound)
      if (lufs === undefined) throw new Superseded()
      keep(sound, lufs)
      return lufs
    },
  }
}
