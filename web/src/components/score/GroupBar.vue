<script setup lang="ts">
/** The head of a group of strips: fold, name, mute, solo and level together. */
import NameField from '../NameField.vue'
import ValueField from '../field/ValueField.vue'
import { inkOf } from '../../draw/tokens'
import type { GroupView } from '../../engine/generated/GroupView'
import { useDocument } from '../../stores/document'

defineProps<{ group: GroupView }>()
const document = useDocument()
</script>

<template>
  <div class="bar" role="row" :aria-label="`Group ${group.name}`" title="Click: select its strips" @click.self="document.pick(group.units)">
   <div role="gridcell" class="cell">
    <button type="button" class="icon-btn" :aria-expanded="!group.folded" :aria-label="group.folded ? `Unfold ${group.name}` : `Fold ${group.name}`" @click="document.edit({ do: 'fold_group', group: group.id, folded: !group.folded })">
      <i class="pi" :class="group.folded ? 'pi-angle-right' : 'pi-angle-down'" />
    </button>
    <b class="called"><NameField :name="group.name" label="Group name" @rename="document.edit({ do: 'rename_group', group: group.id, name: $event })" /></b>
    <button type="button" class="all" :title="`Select the strips of ${group.name}`" @click="document.pick(group.units)"><span v-for="unit in group.units" :key="unit" class="badge" aria-hidden="true" :style="{ '--c': inkOf(unit) }">{{ unit }}</span></button>
    <span class="spacer" @click="document.pick(group.units)" />
    <button type="button" class="tag" :class="{ on: group.muted }" :aria-pressed="group.muted" :aria-label="`Mute group ${group.name}`" title="Mute the group for now" @click="document.toggleAll('muted', group.units, !group.muted)"><span>M</span></button>
    <button type="button" class="tag" :class="{ on: group.soloed }" :aria-pressed="group.soloed" :aria-label="`Solo group ${group.name}`" title="Solo the group for now" @click="document.toggleAll('soloed', group.units, !group.soloed)"><span>S</span></button>
    <span class="level"><ValueField v-for="value in group.values" :key="value.address.param" :value="value" :label="`Level of ${group.name}`" inline /></span>
    <button type="button" class="link-btn" title="Dissolve the group; its strips stay" @click="document.edit({ do: 'ungroup', group: group.id })">Dissolve</button>
   </div>
  </div>
</template>

<style scoped>
.bar { position: absolute; left: var(--gutter); right: 0; height: 28px; display: flex; align-items: center; gap: 4px; padding: 0 10px 0 4px; background: var(--paper); border-bottom: 1px solid var(--hair-2); z-index: 5; }
.cell { display: contents; }
.called { font-size: 14px; display: flex; min-width: 0; padding-right: 6px; }
.badge { min-width: 15px; height: 15px; font-size: var(--fs-11); }
.tag { width: 24px; height: 24px; padding: 0; border: 0; background: none; display: grid; place-items: center; cursor: pointer; color: var(--ink-2); flex: none; }
.tag span { width: 17px; height: 16px; font-size: var(--fs-11); line-height: 14px; border: 1px solid var(--hair-2); border-radius: var(--r); }
.tag.on span { background: var(--ink); color: var(--on-ink); border-color: var(--ink); }
.level { width: 190px; }
.all { display: inline-flex; gap: 3px; min-height: 24px; align-items: center; padding: 0 4px; border: 0; background: none; cursor: pointer; min-width: 0; overflow: hidden; }
.spacer { align-self: stretch; cursor: pointer; }
</style>
