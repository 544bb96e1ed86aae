<script setup lang="ts">
import { ref } from 'vue'
import { AcceptForm } from '../forms'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import FindingCard from './FindingCard.vue'

/** Findings, with what may be done about each. Pins are the numbers that they have in a picture. */
defineProps<{
  findings: Schemas['SiteFinding'][]
  mayEdit: boolean
  page?: boolean
  pins?: Map<Schemas['SiteFinding'], number>
}>()
const emit = defineEmits<{ point: [number] }>()
const accepting = ref<Schemas['SiteFinding']>()
const reopen = change(
  (id: number) => data(api.DELETE('/findings/{id}/acceptance', { params: { path: { id } } })),
  ['inspections'],
)
</script>

<template>
  <FindingCard
    v-for="(f, n) in findings"
    :id="pins?.get(f) ? `finding-${pins.get(f)}` : undefined"
    :key="f.id || `then ${n}`"
    :finding="f"
    :may-edit="mayEdit"
    :page="page"
    :pin="pins?.get(f)"
    @accept="accepting = $event"
    @reopen="reopen.mutate($event)"
    @point="emit('point', pins!.get(f)!)"
  />
  <AcceptForm v-model="accepting" />
</template>
