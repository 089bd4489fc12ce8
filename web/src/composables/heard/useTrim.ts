/** The patch's level is set by what a file would hold: the picture is made at another quality, and may be that of the voices alone. */
import { ref } from 'vue'

import { soundsAtHand } from '../../engine/sounds'
import { Superseded, workers } from '../../engine/workers'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { useSettings } from '../../stores/settings'

export function useTrim() {
  const document = useDocument()
  const messages = useMessages()
  const settings = useSettings()
  /** Whether it is measured what a file would hold. */
  const trimming = ref(false)

  async function trim() {
    const view = document.view
    if (!view || trimming.value) return
    trimming.value = true
    const before = document.edits
    try {
      await soundsAtHand(view.sounds)
      const beat = view.choices.find(({ id }) => id === 'playing.beat')?.at
      const what = settings.showsPhrase ? (beat ? 'beat' : 'phrase') : 'note'
      const { level: file, of } = await workers().level(document.text(), view.listening, what)
      if (document.edits !== before) return
      const why = document.tried({ ask: 'trim_to', true_peak_db: file.true_peak_db })
      const trimmed = document.value('voice.trim_db')
      const words = trimmed && `Level ${trimmed.number} ${trimmed.unit}: ${of} peaked at ${file.true_peak}`
      if (why) messages.add({ severity: 'warn', summary: 'Peak not set', detail: why, life: 6000 })
      else if (trimmed?.place === 1) messages.add({ severity: 'warn', summary: 'As loud as it goes', detail: `${words}; the level is at its highest, so it stays below −1 dB.`, life: 8000 })
      else messages.add({ severity: 'info', summary: 'Peak at −1 dB', detail: `${words}.`, life: 5000 })
    } catch (error) {
      if (!(error instanceof Superseded)) document.refusal = error instanceof Error ? error.message : String(error)
    } finally {
      trimming.value = false
    }
  }
  return { trimming, trim }
}
