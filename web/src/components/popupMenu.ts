/** PrimeVue's menu as it pops up, said to be what it is: what opens over the page belongs to none of its landmarks. */
import Menu from 'primevue/menu'

export default {
  extends: Menu,
  // its entries look for what they stand in by this name
  name: 'Menu',
  props: { pt: { type: Object, default: () => ({ root: { role: 'dialog', 'aria-label': 'Menu' } }) } },
} as unknown as typeof Menu
