// The audio thread: moves messages in and samples out. All sound comes from the module.
// Shared memory (Float32): 0 peak left, 1 peak right, 2 voices, 3 guard gain, 4 share of the time there is, 5 write place, 6 notes
// let go, 7 quality it was lowered to, 8 blocks that took longer than there was, 9 place in what is played in beats or -1, 10 frames from the
// last key struck in silence to its sound, 11.. places of 32 sources of movement, 43.. scope.
const SOURCES = 32
const HEAD = 11 + SOURCES
// Below this nothing is heard: -120 dB.
const FAINT = 1e-6
const SCOPE = 1024
// The work is looked at over this many blocks, and at once when as many in a row take far too long.
const LOOK = 48
const AT_ONCE = 3
// Above this share of the time notes are let go; below the lower one, looked at so many times in a row, more are allowed again.
const TOO_MUCH = 0.95
const EASY = 0.4
const EASY_LOOKS = 12
// The clock is coarse here: whole milliseconds, so single blocks say little and sums much.
const now = () => (globalThis.performance ? globalThis.performance.now() : Date.now())

class Sound extends AudioWorkletProcessor {
  constructor(options) {
    super()
    const { compiled, shared } = options.processorOptions
    this.levels = new Float32Array(shared)
    this.module = new WebAssembly.Instance(compiled, {}).exports
    this.module.zolvik_sound_start(sampleRate)
    this.room = this.module.zolvik_sound_program_length()
    this.program = this.module.zolvik_alloc(this.room)
    this.place = 0
    this.incoming = 0
    this.silent = true
    this.struck = -1
    this.spent = new Float64Array(LOOK)
    this.looked = 0
    this.easy = 0
    this.views()
    this.port.onmessage = (event) => this.take(event.data)
    this.port.postMessage('ready')
  }

  views() {
    const memory = this.module.memory.buffer
    this.left = new Float32Array(memory, this.module.zolvik_sound_channel(0), 1024)
    this.right = new Float32Array(memory, this.module.zolvik_sound_channel(1), 1024)
    this.places = new Float32Array(memory, this.module.zolvik_sound_places(), 2 * SOURCES)
  }

  /** Takes up a program; one that is refused is told, and what was before goes on. */
  install(length) {
    if (!this.module.zolvik_sound_install(this.program, length)) this.port.postMessage('refused')
  }

  /**
   * Takes a message, between blocks. A wave comes in piece by piece, each asked for when the one before has its place: its memory is
   * made, filled and taken over here, never inside of `process`.
   */
  take(message) {
    const { module } = this
    if (message.room !== undefined) {
      this.incoming = module.zolvik_sound_room(message.room)
      this.port.postMessage('more')
    } else if (message.piece) {
      new Uint8Array(module.memory.buffer, this.incoming + message.at, message.piece.length).set(message.piece)
      this.port.postMessage('more')
    } else if (message.shelve) {
      module.zolvik_sound_shelve()
      // what it has is told, never guessed: room for new waves is made by letting old ones go
      const held = module.zolvik_sound_held()
      const bytes = module.zolvik_sound_held_count() * 8
      this.port.postMessage({ held: module.memory.buffer.slice(held, held + bytes) })
    } else if (message.program) {
      new Uint8Array(module.memory.buffer, this.program, this.room).set(message.program)
      this.install(message.program.length)
    } else if (message.changed) {
      this.change(message.changed)
      this.install(this.room)
    } else if (message.score) {
      const { score } = message
      const at = module.zolvik_alloc(score.length)
      new Uint8Array(module.memory.buffer, at, score.length).set(score)
      module.zolvik_sound_play(at, score.length, message.from, message.fromBeats, message.looped, message.gain)
      module.zolvik_free(at, score.length)
    } else if (message.stop) {
      module.zolvik_sound_stop()
    } else if (message.record !== undefined) {
      module.zolvik_sound_record(message.record ? 1 : 0)
      if (message.record) return
      const kept = module.zolvik_sound_kept()
      this.port.postMessage({ kept: module.memory.buffer.slice(kept, kept + module.zolvik_sound_kept_length()) })
    } else {
      // a key struck in silence: how long it takes until it is heard is told
      if ((message.midi[0] & 0xf0) === 0x90 && message.midi[2] > 0 && this.silent && this.struck < 0) this.struck = currentFrame
      module.zolvik_sound_midi(message.midi[0], message.midi[1], message.midi[2])
    }
  }

  /** Puts what is new into the last program: stretches of words, each after its place and how many there are. */
  change(stretches) {
    const bytes = new Uint8Array(this.module.memory.buffer, this.program, this.room)
    for (let at = 0; at < stretches.length; ) {
      const place = stretches[at]
      const count = stretches[at + 1]
      bytes.set(new Uint8Array(stretches.buffer, 4 * (at + 2), 4 * count), 4 * place)
      at += 2 + count
    }
  }

  /** Takes the time a block took; lets notes go when the work does not fit. */
  watch(ms, frames) {
    const spent = this.spent
    const there = (frames * 1000) / sampleRate
    spent[this.looked++] = ms
    if (ms > there) this.levels[8]++
    const n = this.looked
    let load = 0
    if (n >= AT_ONCE) {
      // the least of the last few: one that was only interrupted does not count
      let least = Infinity
      for (let i = n - AT_ONCE; i < n; i++) least = Math.min(least, spent[i])
      if (least > 3 * there) load = least / there
    }
    if (n === LOOK || load > 0) {
      let sum = 0
      let slow = 0
      for (let i = 0; i < n; i++) {
        sum += spent[i]
        if (spent[i] > 0.7 * there) slow++
      }
      const share = sum / (n * there)
      this.levels[4] = share
      // not by a few blocks that were interrupted: at least half of them must be slow
      if (load === 0 && share > TOO_MUCH && slow > n / 2) load = share
      this.easy = share < EASY ? this.easy + 1 : 0
      this.looked = 0
    }
    if (load > 0) {
      this.levels[6] = this.module.zolvik_sound_relieve(load)
      this.easy = 0
    } else if (this.easy >= EASY_LOOKS) {
      this.module.zolvik_sound_relax()
      this.easy = 0
    }
    this.levels[7] = this.module.zolvik_sound_lowered()
  }

  process(_inputs, outputs) {
    const [left, right] = outputs[0]
    const began = now()
    const guard = this.module.zolvik_sound_process(left.length)
    if (this.left.length === 0) this.views()
    const levels = this.levels
    let peakLeft = levels[0]
    let peakRight = levels[1]
    let first = -1
    for (let i = 0; i < left.length; i++) {
      const l = this.left[i]
      const r = this.right[i]
      left[i] = l
      right[i] = r
      peakLeft = Math.max(peakLeft, Math.abs(l))
      peakRight = Math.max(peakRight, Math.abs(r))
      if (first < 0 && (Math.abs(l) > FAINT || Math.abs(r) > FAINT)) first = i
      levels[HEAD + ((this.place + i) % SCOPE)] = 0.5 * (l + r)
    }
    this.place = (this.place + left.length) % SCOPE
    this.silent = first < 0
    if (this.struck >= 0 && first >= 0) {
      levels[10] = currentFrame + first - this.struck
      this.struck = -1
    }
    levels[0] = peakLeft
    levels[1] = peakRight
    levels[2] = this.module.zolvik_sound_voices()
    levels[3] = Math.min(levels[3], guard)
    levels[5] = this.place
    for (let i = 0; i < SOURCES; i++) levels[11 + i] = this.places[2 * i]
    levels[9] = this.module.zolvik_sound_place()
    this.watch(now() - began, left.length)
    return true
  }
}

registerProcessor('zolvik-sound', Sound)
