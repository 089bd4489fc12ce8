/** The component library in our tokens. */
import { definePreset } from '@primeuix/themes'
import base from '@primeuix/themes/aura/base'
import button from '@primeuix/themes/aura/button'
import contextmenu from '@primeuix/themes/aura/contextmenu'
import dialog from '@primeuix/themes/aura/dialog'
import inputtext from '@primeuix/themes/aura/inputtext'
import menu from '@primeuix/themes/aura/menu'
import popover from '@primeuix/themes/aura/popover'
import progressbar from '@primeuix/themes/aura/progressbar'
import textarea from '@primeuix/themes/aura/textarea'
import toast from '@primeuix/themes/aura/toast'

const shades = (ink: string) =>
  Object.fromEntries([50, 100, 200, 300, 400, 500, 600, 700, 800, 900, 950].map((step) => [step, ink]))

const scheme = {
  primary: { color: 'var(--ink)', contrastColor: 'var(--on-ink)', hoverColor: 'var(--ink-2)', activeColor: 'var(--ink-2)' },
  highlight: { background: 'var(--select)', focusBackground: 'var(--select)', color: 'var(--ink)', focusColor: 'var(--ink)' },
  text: { color: 'var(--ink)', hoverColor: 'var(--ink)', mutedColor: 'var(--ink-3)', hoverMutedColor: 'var(--ink-2)' },
  content: { background: 'var(--sheet)', hoverBackground: 'var(--field-hover)', borderColor: 'var(--hair-2)', color: 'var(--ink)', hoverColor: 'var(--ink)' },
  overlay: {
    select: { background: 'var(--sheet)', borderColor: 'var(--hair-2)', color: 'var(--ink)' },
    popover: { background: 'var(--sheet)', borderColor: 'var(--hair-2)', color: 'var(--ink)' },
    modal: { background: 'var(--paper)', borderColor: 'var(--hair-2)', color: 'var(--ink)' },
  },
  formField: {
    background: 'var(--field)', borderColor: 'var(--hair-2)', hoverBorderColor: 'var(--ink-3)', focusBorderColor: 'var(--ink)',
    color: 'var(--ink)', placeholderColor: 'var(--ink-3)', iconColor: 'var(--ink-3)', shadow: 'none',
  },
}

const STEPS = [0, 50, 100, 200, 300, 400, 500, 600, 700, 800, 900, 950]
const surface = (...inks: string[]) => Object.fromEntries(STEPS.map((step, i) => [step, `var(--${inks[i]})`]))
const paper = surface('sheet', 'paper', 'field', 'hair-2', 'hair-2', 'ink-3', 'ink-2', 'ink-2', 'ink-2', 'ink', 'ink', 'ink')
const night = surface('ink', 'ink', 'ink', 'ink-2', 'ink-2', 'ink-3', 'ink-3', 'hair-2', 'hair-2', 'field', 'sheet', 'paper')

/** Messages in the inks of the drawing: what went wrong on its own ground, the rest on paper. */
const told = (ink: string, ground: string) => ({
  background: `var(--${ground})`, borderColor: `var(--${ink})`, color: `var(--${ink})`, detailColor: 'var(--ink)', shadow: '0 4px 8px rgb(0 0 0 / 12%)',
  closeButton: { hoverBackground: 'var(--field-hover)', focusRing: { color: `var(--${ink})`, shadow: 'none' } },
})
const severities = { info: told('ink', 'paper'), success: told('ok', 'paper'), warn: told('warn', 'paper'), error: told('warn', 'warn-bg') }

/** The parts we use and no others: working out the tokens of all takes a tenth of a second whenever the page is opened. */
const components = { button, contextmenu, dialog, inputtext, menu, popover, progressbar, textarea, toast }

export const preset = definePreset({ ...base, components }, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '2px', md: '2px', lg: '2px', xl: '2px' } },
  semantic: {
    primary: shades('var(--ink)'),
    colorScheme: { light: { surface: paper, ...scheme }, dark: { surface: night, ...scheme } },
    formField: { paddingX: '8px', paddingY: '4px', borderRadius: '2px' },
  },
  components: { toast: { colorScheme: { light: severities, dark: severities } } },
})
