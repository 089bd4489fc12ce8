// The audio thread: moves messages in and samples out. All sound comes from the module.
// What it tells the page lies in memory both share, at places that come with the options.
// The clock is coarse here: whole milliseconds, so single blocks say little and sums much.
const now = () => (globalThis.performance ? globalThis.performance.now() : Date.now())

class Sound extends AudioWorkletProcessor {
  constructor(options) {
    super()
    const { compiled, shared, places } = options.processorOptions
    this.places = places
    this.shared = new Float32Array(shared)
    this.module = new WebAssembly.Instance(compiled, {}).exports
    this.module.zolvik_sound_start(sampleRate)
    this.room = this.module.zolvik_sound_program_length()
    this.program = this.module.zolvik_alloc(this.room)
    this.place = 0
    this.incoming = 0
    this.views()
    this.port.onmessage = (event) => this.take(event.data)
    this.port.postMessage('ready')
  }

  views() {
    const memory = this.module.memory.buffer
    this.left = new Float32Array(memory, this.module.zolvik_sound_channel(0), 1024)
    this.right = new Float32Array(memory, this.module.zolvik_sound_channel(1), 1024)
    this.told = new Float32Array(memory, this.module.zolvik_sound_told(), this.places.written)
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

  process(_inputs, outputs) {
    const [left, right] = outputs[0]
    const began = now()
    this.module.zolvik_sound_process(left.length)
    if (this.left.length === 0) this.views()
    const { shared, places, told } = this
    for (let i = 0; i < left.length; i++) {
      left[i] = this.left[i]
      right[i] = this.right[i]
      shared[places.scope + ((this.place + i) % places.scopeFrames)] = 0.5 * (left[i] + right[i])
    }
    this.place = (this.place + left.length) % places.scopeFrames
    for (let i = 0; i < places.guard; i++) shared[i] = Math.max(shared[i], told[i])
    shared[places.guard] = Math.min(shared[places.guard], told[places.guard])
    for (let i = places.guard + 1; i < places.written; i++) shared[i] = told[i]
    shared[places.written] = this.place
    this.module.zolvik_sound_watch(now() - began, left.length)
    return true
  }
}

registerProcessor('zolvik-sound', Sound)
