/** What is done to patches of the library: one act at a time, each told where it fails. */
import { computed, ref, type Ref } from 'vue'
import { useRouter } from 'vue-router'

import { downloadFrom } from '../../composables/screen/download'
import { api } from '../../engine/api'
import type { PatchSummary } from '../../engine/generated/PatchSummary'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { usePlaying } from '../../stores/playing'
import { useSaving } from '../../stores/saving'
import { useSettings } from '../../stores/settings'

/** Between two downloads: a browser takes only so many at once. */
const BETWEEN_MS = 300

export function useLibraryActs(patches: Ref<PatchSummary[]>, marked: Ref<number[]>, refresh: () => Promise<void>) {
  const router = useRouter()
  const messages = useMessages()
  const document = useDocument()
  const saving = useSaving()
  const playing = usePlaying()
  const settings = useSettings()
  /** The patch that was heard last. */
  const hearing = ref<number | null>(null)

  function say(error: unknown, summary: string) {
    messages.add({ severity: 'error', summary, detail: error instanceof Error ? error.message : String(error), life: 8000 })
  }

  /** One act at a time: a second click on the same thing does not do it twice. */
  const busy = ref(false)
  async function act(what: () => Promise<unknown>, failed: string) {
    if (busy.value) return
    busy.value = true
    try {
      await what()
      await refresh()
    } catch (error) {
      say(error, failed)
    } finally {
      busy.value = false
    }
  }

  /** Loads a patch into the engine without opening it, and plays its note. */
  async function audition(patch: PatchSummary) {
    try {
      if (hearing.value === patch.id && playing.auditioning) {
        playing.stop()
        return
      }
      const turn = saving.leave()
      const [full] = await Promise.all([api.read(patch.id), document.start()])
      // another one was chosen, or a patch opened, while this was on its way
      if (!saving.isNow(turn)) return
      const why = document.load(full.document)
      if (why) throw new Error(why)
      document.select(null)
      hearing.value = patch.id
      playing.heard = patch.name
      playing.play()
    } catch (error) {
      say(error, 'Not played')
    }
  }

  /** A new patch is looked at as a note: it has no phrase. */
  const create = () => act(async () => {
    settings.picture = 'note'
    return router.push(`/patch/${(await api.create({})).summary.id}`)
  }, 'No patch was made')

  /** Deleting for good is asked about, since nothing brings it back. */
  const emptying = ref(false)
  const emptyBin = () => act(async () => {
    const gone = await api.emptyBin()
    emptying.value = false
    binned.value = []
    messages.add({ severity: 'info', summary: `${gone.patches} ${gone.patches === 1 ? 'patch' : 'patches'} deleted for good`, life: 4000 })
  }, 'The bin was not emptied')
  /** One of the bin that is to be deleted for good, once it is asked about. */
  const erased = ref<PatchSummary>()
  const erase = () => act(async () => {
    if (erased.value) {
      await api.erase(erased.value.id)
      notBinned([erased.value.id])
    }
    erased.value = undefined
  }, 'Not deleted')
  const exportPatch = (patch: PatchSummary) => downloadFrom(patch.damage ? api.rawUrl(patch.id) : api.fileUrl(patch.id))

  async function importFiles(files: File[]) {
    for (const each of files) {
      await act(async () => {
        const made = await api.importFile(each)
        messages.add({ severity: 'success', summary: `Imported “${made.summary.name}”`, life: 4000 })
      }, `“${each.name}” was not imported`)
    }
  }

  /** What went into the bin last can be taken out again at once. */
  const binned = ref<number[]>([])
  /** What is in the bin no more has nothing to be undone. */
  const notBinned = (ids: number[]) => (binned.value = binned.value.filter((id) => !ids.includes(id)))
  const toBin = (ids: number[]) => act(async () => {
    for (const id of ids) await api.bin(id)
    binned.value = ids
    // what is in the bin has no views to go to
    if (saving.last !== null && ids.includes(saving.last)) saving.last = null
    marked.value = []
  }, 'Not moved')
  const bringBack = () => act(async () => {
    for (const id of binned.value) await api.restore(id)
    binned.value = []
  }, 'Not restored')
  const restoreAll = (ids: number[]) => act(async () => {
    for (const id of ids) await api.restore(id)
    notBinned(ids)
    marked.value = []
  }, 'Not restored')
  async function exportAll(ids: number[]) {
    for (const patch of patches.value.filter(({ id }) => ids.includes(id))) {
      exportPatch(patch)
      await new Promise((go) => window.setTimeout(go, BETWEEN_MS))
    }
  }
  const newTag = ref('')
  const tagAll = (ids: number[]) => act(async () => {
    for (const id of ids) await api.tag(id, newTag.value.trim())
    newTag.value = ''
  }, 'Not tagged')
  const isHeard = computed(() => (playing.auditioning ? hearing.value : null))
  return {
    say, act, busy, hearing, isHeard, audition, create, emptying, emptyBin, erased, erase, exportPatch, exportAll, importFiles,
    binned, toBin, bringBack, restoreAll, newTag, tagAll,
    rename: (patch: PatchSummary, name: string) => act(() => api.rename(patch.id, name), 'Not renamed'),
    duplicate: (patch: PatchSummary) => act(() => api.duplicate(patch.id), 'Not duplicated'),
  }
}
