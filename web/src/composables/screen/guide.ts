/** The guide: one page a task, shipped with the application. It is loaded when help is first opened: nobody waits for it before. */
import { marked } from 'marked'

const pages = import.meta.glob<string>('../../../../docs/guide/*.md', { query: '?raw', import: 'default', eager: true })
/** By their names: the way to them is no matter of the text. */
const pictures = Object.entries(import.meta.glob<string>('../../../../docs/screenshots/*.png', { query: '?url', import: 'default', eager: true }))

export interface GuidePage { title: string; html: string }

/** Our own text, in the order of the files' names. */
export const GUIDE: readonly GuidePage[] = Object.keys(pages).sort().map((path) => {
  const text = pages[path]
  const title = /^# (.*)$/m.exec(text)?.[1] ?? ''
  const local = text.replace(/^# .*$/m, '').replace(/\]\(([\w-]+\.png)\)/g, (_, name: string) => `](${pictures.find(([path]) => path.endsWith(`/${name}`))?.[1] ?? ''})`)
  return { title, html: marked.parse(local, { async: false }) }
})
