<script setup lang="ts">
import { ElCheckbox, ElDatePicker, ElOption, ElSelect } from 'element-plus'
import { computed, watch } from 'vue'
import type { Schemas } from '../../api/client'
import { clients } from '../../api/queries'
import type { Limits } from '../../composables/limits'

/** What a person sees: all clients or some, prices, documents, and until when. */
const props = defineProps<{ role: Schemas['Role']; plain?: boolean; whose?: string }>()
const limits = defineModel<Limits>({ required: true })
const { data: known } = clients()
const guest = computed(() => props.role === 'guest')
const choices = computed(() => (known.value?.items ?? []).filter((c) => !guest.value || !c.studio))
// A guest belongs to one client and sees neither; an admin sees everything.
watch(
  () => props.role,
  (role) => {
    if (role === 'guest') Object.assign(limits.value, { clients: limits.value.clients.slice(0, 1), prices: false })
    if (role === 'guest') limits.value.documents = false
    if (role === 'admin') Object.assign(limits.value, { clients: [], prices: true, documents: true, endsOn: null })
  },
)
function choose(ids: number[]) {
  const before = limits.value.clients.length
  limits.value.clients = guest.value ? ids.slice(-1) : ids
  if (!guest.value && before === 0 && ids.length) Object.assign(limits.value, { prices: false, documents: false })
  if (!guest.value && !ids.length) Object.assign(limits.value, { prices: true, documents: true })
}
</script>

<template>
  <div v-if="role !== 'admin'" class="row limits">
    <ElSelect
      :model-value="limits.clients"
      multiple
      filterable
      class="clients"
      :placeholder="guest ? 'Which client?' : 'All clients'"
      :aria-label="`Clients that ${whose ?? 'the person'} sees`"
      @update:model-value="choose"
      ><ElOption v-for="c in choices" :key="c.id" :value="c.id" :label="c.name"
    /></ElSelect>
    <template v-if="!guest">
      <ElCheckbox v-model="limits.prices">Prices</ElCheckbox>
      <ElCheckbox v-model="limits.documents">Documents</ElCheckbox>
    </template>
    <ElDatePicker
      v-if="!plain"
      v-model="limits.endsOn"
      class="until"
      value-format="YYYY-MM-DD"
      placeholder="Last day"
      aria-label="Last day of the account"
      clearable
    />
  </div>
</template>

<style scoped>
.limits {
  gap: 0.4rem 1rem;
}
.clients {
  width: min(22rem, 100%);
}
.limits :deep(.until) {
  width: 9.5rem;
}
</style>
