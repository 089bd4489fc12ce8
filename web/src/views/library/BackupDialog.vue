<script setup lang="ts">
/** The backups of the library: when, how many patches, what differs; single patches taken out as copies, or the whole put in the library's place. */
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'

import Dialog from '../../components/dialogs/modalDialog'
import { useAct } from '../../composables/heard/useAct'
import { shortDate } from '../../draw/dates'
import { backupsApi } from '../../engine/backups'
import type { BackedUpView } from '../../engine/generated/BackedUpView'
import type { BackupContents } from '../../engine/generated/BackupContents'
import type { BackupView } from '../../engine/generated/BackupView'
import { useMessages } from '../../stores/messages'
import { useSaving } from '../../stores/saving'

const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ taken: [] }>()
const saving = useSaving()
const messages = useMessages()
const { busy, problem, act } = useAct()
const backups = ref<BackupView[]>([])
const chosen = ref<BackupView>()
const contents = ref<BackupContents>()
/** Whether those that are the same as in the library are shown too. */
const all = ref(false)
/** Whether the chosen one is about to be put in the library's place. */
const sure = ref(false)

const KINDS: Record<BackupView['kind'], string> = { daily: '', before_update: 'before an update', faulty: 'something was damaged', set_aside: 'set aside' }
const STANDINGS: Record<BackedUpView['standing'], string> = { same: 'as now', changed: 'changed since', gone: 'gone since' }
const dateOf = (at: string | null) => (at ? shortDate(new Date(at)) : 'unknown date')
const size = (bytes: number) => `${(bytes / 1_000_000).toFixed(1)} MB`
const count = (number: number) => `${number} ${number === 1 ? 'patch' : 'patches'}`
const differing = computed(() => contents.value?.patches.filter(({ standing }) => standing !== 'same') ?? [])
const shown = computed(() => (all.value ? contents.value?.patches : differing.value) ?? [])

async function list() {
  backups.value = await backupsApi.list()
  const first = backups.value.find(({ name }) => name === chosen.value?.name) ?? backups.value[0]
  if (first) await choose(first)
}
let asked = 0
async function choose(backup: BackupView) {
  chosen.value = backup
  contents.value = undefined
  sure.value = false
  const turn = ++asked
  const found = await backupsApi.contents(backup.name)
  if (turn === asked) contents.value = found
}
watch(visible, (open) => open && void act(list))

const make = () => act(async () => {
  chosen.value = undefined
  await backupsApi.make()
  await list()
})
const takeOut = (patch: BackedUpView) => act(async () => {
  if (!chosen.value) return
  const made = await backupsApi.takeOut(chosen.value.name, patch.id)
  messages.add({ severity: 'success', summary: `“${made.summary.name}” is in the library`, life: 4000 })
  emit('taken')
})
const putInPlace = () => act(async () => {
  if (!chosen.value) return
  await backupsApi.putInPlace(chosen.value.name)
  saving.tellReplaced()
})
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Backups" :style="{ width: '820px' }">
    <p class="muted">One is made on each day of use and before each update; older ones thin out. Restoring sets the present library aside, in this list.</p>
    <p v-if="backups.length === 0 && !busy" class="note">There are no backups yet. The first is made once there is a patch.</p>
    <div v-else class="both">
      <ul class="list" role="listbox" aria-label="Backups">
        <li v-for="backup in backups" :key="backup.name" role="presentation">
          <button type="button" role="option" class="one" :aria-selected="backup.name === chosen?.name" :data-backup="backup.name" @click="act(() => choose(backup))">
            <span class="strong">{{ dateOf(backup.at) }}</span>
            <span class="muted">{{ backup.patches === null ? 'cannot be read' : count(backup.patches) }}, {{ size(backup.bytes) }}</span>
            <span v-if="KINDS[backup.kind]" :class="backup.kind === 'faulty' ? 'warn' : 'muted'">{{ KINDS[backup.kind] }}</span>
          </button>
        </li>
      </ul>
      <div v-if="chosen && contents" class="inside" data-testid="backup-contents">
        <div class="sum">
          <span>{{ differing.length ? `${count(differing.length)} ${differing.length === 1 ? 'differs' : 'differ'} from the library` : 'All of its patches are as in the library' }}<template v-if="contents.new_since.length">; {{ count(contents.new_since.length) }} made since: {{ contents.new_since.slice(0, 4).join(', ') }}{{ contents.new_since.length > 4 ? ' …' : '' }}</template></span>
          <label><input v-model="all" type="checkbox" /> Show all</label>
        </div>
        <ul class="patches" tabindex="0" aria-label="Patches of the backup">
          <li v-for="patch in shown" :key="patch.id">
            <span class="clip name" :title="patch.name">{{ patch.name }}</span>
            <span class="muted">{{ patch.changed_at ? shortDate(new Date(patch.changed_at)) : '' }}</span>
            <span :class="patch.standing === 'same' ? 'muted' : 'strong'">{{ STANDINGS[patch.standing] }}</span>
            <button type="button" class="btn" :disabled="busy || !patch.readable" :title="patch.readable ? 'Adds it to the library as a copy' : 'It is damaged in this backup'" :aria-label="`Take out ${patch.name}`" @click="takeOut(patch)">Take out</button>
          </li>
        </ul>
      </div>
    </div>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template #footer>
      <Button label="Back up now" size="small" severity="secondary" variant="outlined" :disabled="busy" @click="make" />
      <span class="spacer" />
      <template v-if="sure">
        <span class="ask">The library becomes what it was then. What it is now is set aside.</span>
        <Button label="Leave it" size="small" severity="secondary" variant="outlined" @click="sure = false" />
        <Button label="Restore" size="small" :loading="busy" @click="putInPlace" />
      </template>
      <Button v-else label="Restore the whole library" size="small" severity="secondary" variant="outlined" :disabled="busy || !contents" @click="sure = true" />
    </template>
  </Dialog>
</template>

<style scoped>
.both { display: grid; grid-template-columns: 220px minmax(0, 1fr); gap: 12px; height: 340px; }
ul { list-style: none; margin: 0; padding: 0; }
.list { overflow-y: auto; border-right: 1px solid var(--hair); padding-right: 8px; }
.one { display: grid; gap: 1px; width: 100%; text-align: left; border: 0; border-radius: var(--r); background: none; color: inherit; padding: 6px 8px; cursor: pointer; }
.one[aria-selected='true'] { background: var(--select); }
.inside { display: flex; flex-direction: column; min-height: 0; }
.sum { display: flex; gap: 8px; justify-content: space-between; align-items: baseline; padding-bottom: 6px; }
.sum label { white-space: nowrap; }
.patches { flex: 1; overflow-y: auto; min-height: 0; }
.patches li { display: grid; grid-template-columns: minmax(0, 1fr) 96px 96px auto; gap: 8px; align-items: center; border-top: 1px solid var(--hair); min-height: 32px; }
.ask { align-self: center; }
.warn, .problem { color: var(--warn); }
</style>
