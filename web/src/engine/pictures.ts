/** Pictures by two workers: the newest wish stops the picture that is under way, those that were whole are kept by what they are of. */
import type { PictureNews } from './workers.messages'
import type { Answer } from './generated/Answer'
import type { BandLevelView } from './generated/BandLevelView'
import type { EffectLevelView } from './generated/EffectLevelView'
import type { LevelView } from './generated/LevelView'
import type { PictureOf } from './generated/PictureOf'

/** A note as pictures, beside the spectrogram, which is painted where it is made; all arrays share the columns. */
export interface Unfolded {
  columns: number
  rows: number
  loudnessDb: Float32Array
  /** For each unit, what it puts out, 0 to 1. */
  curves: Map<number, Float32Array>
  /** For each source of movement where it stands, 0 to 1. */
  places: Map<number, Float32Array>
  /** For each link where on its bar what it moves lies. */
  moved: Map<number, Float32Array>
  /** For each send whose depth is moved how many times as strong it is as by itself. */
  depths: Map<number, Float32Array>
  /** For each source that chance touches its lowest and highest places with other seeds. */
  bands: Map<number, { low: Float32Array; high: Float32Array }>
  /** Levels before and after each effect. */
  effects: EffectLevelView[]
  /** By how much the effect looked at changes the level, at each column, in dB; empty where it does not. */
  gainDb: number[]
  /** The sound by bands; empty in a coarse picture. */
  levels: BandLevelView[]
  level: LevelView
  /** The same in words: the spectrogram, what each unit puts out and how each source goes; empty in a coarse picture. */
  told: { spectrogram: string; curves: Map<number, string>; places: Map<number, string> }
  /** Whether it is exact, not made in a hurry. */
  exact: boolean
  /** Whether it has what other seeds would give too. */
  settled: boolean
}

/** What of a picture is told before and after it is whole. */
export interface Watching {
  /** The first of it can be seen. */
  ink?: () => void
  /** The same picture with what other seeds would give. */
  more?: (picture: Unfolded) => void
}

/** What was asked for is no longer wanted: something newer of its kind was. */
export class Superseded extends Error {
  constructor() {
    super('something newer was asked for')
  }
}

export const floats = (part: Uint8Array<ArrayBuffer>) => new Float32Array(part.buffer)

const alike = (before: Float32Array | undefined, now: Float32Array) => (before?.length === now.length && now.every((value, i) => value === before[i]) ? before : now)

interface Wish extends Watching {
  /** What it is of, written down when it is begun or compared: while a hand moves most wishes never are. */
  of: () => PictureOf
  detail: PictureOf['detail']
  /** Laid beside the picture. */
  aside: boolean
  /** One of many, while a hand moves. */
  hurried: boolean
  /** Pictures for the same purpose take each other's place. */
  purpose: string
  /** Whether what it was asked for has come by another one. */
  needless?: () => boolean
  /** Somebody hears that it is not there yet: it goes before exact pictures. */
  urgent?: boolean
  resolve: (picture: Unfolded) => void
  reject: (error: Error) => void
}
interface Under extends Wish {
  id: number
  since: number
  effects?: EffectLevelView[]
  whole?: { answer: Extract<Answer, { is: 'unfolded' }>; parts: Uint8Array<ArrayBuffer>[] }
  picture?: Unfolded
  chance?: Extract<PictureNews, { news: 'chance' }>
}

/** Pictures that are kept. */
const KEPT = 16
/** Wishes that come faster than this one after the other are those of a hand that moves, in milliseconds. */
const ROW_MS = 250
/** While a hand moves a picture that was begun is drawn to its end, if that takes no longer than this: at first so long, after one that was broken off
 *  more, so that its right end is seen too; at most so long; */
const GRACE_MS = 240
const LONGEST_GRACE_MS = 960
/** then the page has the machine for so many times as long as it took, so that what is dragged follows the hand: at most so long. */
const PAUSE = 1.5
const PAUSE_MS = 160

export interface Pictures {
  /** `moving` is said while a hand moves on: then it is of nothing that was drawn before. */
  ask(wish: Pick<Wish, 'of' | 'detail' | 'aside' | 'needless' | 'urgent'>, purpose: string, moving: boolean, watching?: Watching): Promise<Unfolded>
  hear(news: PictureNews): void
  fail(why: string): void
  busy(): boolean
}

interface Ways {
  /** To the worker that renders. */
  post: (id: number, of: PictureOf) => void
  /** Says to both which picture is wanted. */
  want: (id: number) => void
  /** Asks the drawing worker for a picture it keeps. */
  again: (key: number) => Promise<{ answer: Answer; parts: Uint8Array<ArrayBuffer>[] }>
  /** Told of every picture that is whole. */
  drawn: (of: PictureOf, picture: Unfolded) => void
}

export function makePictures({ post, want, again, drawn }: Ways): Pictures {
  let last = 0
  let under: Under | undefined
  let waiting: Wish[] = []
  let askedAt = 0
  /** Until when no other hurried picture is begun. */
  let pausedTo = 0
  let pause: ReturnType<typeof setTimeout> | undefined
  let grace: ReturnType<typeof setTimeout> | undefined
  let graceMs = GRACE_MS
  /** A kept picture that is being fetched: meanwhile nothing is laid beside, as that would be newer than it. */
  let fetched: number | undefined
  /** By what they are of: the number the drawing worker keeps them under, and what came of the other. */
  const kept = new Map<string, { id: number; effects: EffectLevelView[]; bands: Unfolded['bands']; settled: boolean }>()
  /** The last one: what is like it was is the same, and is not drawn anew. */
  let newest: Unfolded | undefined
  const contentOf = (of: PictureOf) => JSON.stringify({ ...of, detail: null })

  function unfolded({ answer, parts }: NonNullable<Under['whole']>, effects: EffectLevelView[], bands: Unfolded['bands'], exact: boolean, settled: boolean): Unfolded {
    const { columns } = answer
    const rows = (part: Uint8Array<ArrayBuffer>, first = 0) => {
      const all = floats(part)
      return (i: number) => all.subarray((first + i) * columns, (first + i + 1) * columns)
    }
    const named = (ids: number[], row: (i: number) => Float32Array, before: Map<number, Float32Array> | undefined) => new Map(ids.map((id, i) => [id, alike(before?.get(id), row(i))]))
    return {
      columns,
      rows: answer.rows,
      loudnessDb: floats(parts[1]),
      curves: named(answer.units, rows(parts[2]), newest?.curves),
      places: named(answer.sources, rows(parts[3]), newest?.places),
      moved: named(answer.links, rows(parts[3], answer.sources.length), newest?.moved),
      depths: named(answer.sends, rows(parts[3], answer.sources.length + answer.links.length), newest?.depths),
      bands,
      effects,
      gainDb: answer.gain_db,
      levels: answer.bands,
      level: answer.level,
      told: {
        spectrogram: answer.told.spectrogram,
        curves: new Map(answer.told.curves.map((words, i) => [answer.units[i], words])),
        places: new Map(answer.told.places.map((words, i) => [answer.sources[i], words])),
      },
      exact,
      settled,
    }
  }

  function stop() {
    clearTimeout(grace)
    grace = undefined
    under = undefined
  }
  function begin(wish: Wish) {
    stop()
    under = { ...wish, id: ++last, since: performance.now() }
    want(under.id)
    post(under.id, wish.of())
  }
  /** Whether it may begin now. What is laid beside waits for what other seeds would give the picture; and for the exact picture, if that may make it needless. */
  const isDue = (wish: Wish) => !wish.aside || (fetched === undefined && (wish.urgent || !under || under.aside || (under.detail === 'fine' ? under.picture?.settled : !wish.needless)))
  function next() {
    if (under && !under.picture) return
    clearTimeout(pause)
    const needless = waiting.filter((wish) => wish.needless?.())
    waiting = waiting.filter((wish) => !needless.includes(wish))
    needless.forEach((wish) => wish.reject(new Superseded()))
    const due = waiting.filter(isDue)
    const wish = due.find((one) => !one.aside && one.detail === 'coarse') ?? due.find((one) => one.urgent) ?? due[0]
    if (!wish) return
    const leftMs = wish.hurried ? pausedTo - performance.now() : 0
    if (leftMs > 0) {
      pause = setTimeout(next, leftMs)
      return
    }
    waiting = waiting.filter((other) => other !== wish)
    begin(wish)
  }
  /** A newer wish: what is under way stops at once, unless the hand has seen no whole picture for a while. */
  function overtake() {
    if (under?.urgent && !under.picture && waiting[0].detail === 'fine') return
    if (!under || under.picture || under.aside) return push()
    // the exact picture of what is being drawn in a hurry follows it
    if (under.detail === 'coarse' && waiting[0].detail === 'fine' && contentOf(under.of()) === contentOf(waiting[0].of())) return
    const leftMs = graceMs - (performance.now() - under.since)
    if (under.detail === 'fine' || !waiting[0].hurried) push()
    else if (leftMs <= 0) pushLate()
    else grace ??= setTimeout(pushLate, leftMs)
  }
  function pushLate() {
    graceMs = Math.min(LONGEST_GRACE_MS, 2 * graceMs)
    push()
  }
  function push() {
    breakOff()
    next()
  }
  /** What is laid beside is done again later; what is of the same purpose as one that waits is not wanted any more. */
  function breakOff() {
    const before = under
    stop()
    if (!before || before.picture) return
    if (before.aside && waiting.every((wish) => wish.purpose !== before.purpose)) waiting.push(before)
    else before.reject(new Superseded())
  }
  /** What waits for a purpose is not wanted any more. */
  function takePlaceOf(purpose: string) {
    const older = waiting.find((wish) => wish.purpose === purpose)
    older?.reject(new Superseded())
    waiting = waiting.filter((wish) => wish !== older)
  }
  async function keptOne(content: string): Promise<Unfolded | undefined> {
    const known = kept.get(content)
    if (!known) return undefined
    const found = await again(known.id).catch(() => undefined)
    if (found?.answer.is !== 'unfolded') {
      kept.delete(content)
      return undefined
    }
    return (newest = unfolded({ answer: found.answer, parts: found.parts }, known.effects, known.bands, true, known.settled))
  }
  /** What other seeds would give, once the picture itself is there. */
  function seeds() {
    if (!under?.picture || !under.chance) return
    const { chancy, bands: part } = under.chance
    const { columns } = under.picture
    const all = floats(part)
    const row = (i: number) => all.subarray(i * columns, (i + 1) * columns)
    const bands = new Map(chancy.map((source, i) => [source, { low: row(2 * i), high: row(2 * i + 1) }]))
    under.picture = { ...under.picture, bands, settled: true }
    const known = kept.get(contentOf(under.of()))
    if (known) Object.assign(known, { bands, settled: true })
    under.more?.(under.picture)
    next()
  }
  function settle() {
    if (!under?.whole || !under.effects) return
    const done = under
    const picture = unfolded(under.whole, under.effects, new Map(), under.detail === 'fine', false)
    if (!done.aside) newest = picture
    done.picture = picture
    drawn(done.of(), picture)
    const now = performance.now()
    if (done.hurried) {
      pausedTo = now + Math.min(PAUSE_MS, PAUSE * (now - done.since))
      graceMs = Math.max(GRACE_MS, Math.min(graceMs, 1.5 * (now - done.since)))
    }
    if (done.detail === 'fine' && !done.aside) {
      kept.set(contentOf(done.of()), { id: done.id, effects: under.effects, bands: picture.bands, settled: false })
      for (const oldest of [...kept.keys()].slice(0, Math.max(0, kept.size - KEPT))) kept.delete(oldest)
    }
    clearTimeout(grace)
    grace = undefined
    done.resolve(picture)
    // whoever asked takes the picture first
    setTimeout(() => under === done && seeds())
    next()
  }
  function refuse(why: string) {
    const refused = under
    stop()
    refused?.reject(new Error(why))
    next()
  }
  return {
    async ask({ of: written, detail, aside, needless, urgent }, purpose, moving, watching = {}) {
      let known: PictureOf | undefined
      const of = () => (known ??= written())
      if (!aside && !moving) {
        const content = contentOf(of())
        const before = kept.get(content)
        if (before && (before.settled || detail === 'coarse')) {
          // nothing that is under way may come after it
          want(++last)
          breakOff()
          takePlaceOf(purpose)
          const id = (fetched = last)
          const found = await keptOne(content)
          if (fetched === id) fetched = undefined
          if (id !== last) throw new Superseded()
          if (found) {
            queueMicrotask(next)
            return found
          }
        }
      }
      return new Promise<Unfolded>((resolve, reject) => {
        takePlaceOf(purpose)
        const now = performance.now()
        const hurried = !aside && detail === 'coarse' && now - askedAt < ROW_MS
        if (!aside && detail === 'coarse') askedAt = now
        const wish = { ...watching, of, detail, aside, hurried, purpose, needless, urgent, resolve, reject }
        if (aside) {
          waiting.push(wish)
          next()
        } else {
          waiting.unshift(wish)
          overtake()
        }
      })
    },
    hear(news) {
      if (under?.id !== news.picture) return
      switch (news.news) {
        case 'refused':
          return refuse(news.why)
        case 'ink':
          return under.ink?.()
        case 'rendered':
          under.effects = news.effects
          return settle()
        case 'whole':
          if (news.answer.is === 'unfolded') {
            under.whole = { answer: news.answer, parts: news.parts }
            return settle()
          }
          return refuse(news.answer.is === 'refused' ? news.answer.why : 'unexpected answer')
        case 'chance':
          under.chance = news
          return seeds()
      }
    },
    fail(why) {
      const all = [...(under && !under.picture ? [under] : []), ...waiting]
      stop()
      waiting = []
      all.forEach((wish) => wish.reject(new Error(why)))
    },
    busy: () => (under !== undefined && !under.picture) || waiting.length > 0,
  }
}
