/** PrimeVue's dialog, which gives the focus to its first field only after it has faded in: by then somebody may be typing in another one,
 * and the rest of the word would land elsewhere. Where the focus is inside already it stays. */
import Dialog from 'primevue/dialog'

interface Inner {
  container?: HTMLElement | null
}
const inner = Dialog as unknown as { methods: { focus: (this: Inner) => void } }

export default {
  extends: Dialog,
  name: 'ModalDialog',
  methods: {
    focus(this: Inner) {
      if (!this.container?.contains(document.activeElement)) inner.methods.focus.call(this)
    },
  },
} as unknown as typeof Dialog
