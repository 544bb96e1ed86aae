<script setup lang="ts">
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { computed, ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { owners } from '../../api/queries'
import { daysOn, spans } from '../../composables/home'
import { useMany } from '../../composables/many'
import { some } from '../../composables/show'
import { offerUndo } from '../../composables/undo'

/** What can be done with several things that need attention: assign them, snooze them. */
const props = defineProps<{ items: Schemas['DueItem'][] }>()
const emit = defineEmits<{ clear: [] }>()
const choosing = ref(false)
const { data: people } = owners(choosing)
const many = computed(() => some(props.items.length, 'item'))
type Item = Schemas['DueItem']
type Change = (key: string) => Promise<unknown>
const { run, busy } = useMany<Item>((i) => i.message, 'item', [])
const path = (key: string) => ({ params: { path: { key } } })
const assign =
  (person: number): Change =>
  (key) =>
    data(api.PUT('/due/{key}/owner', { ...path(key), body: { person } }))
const unassign: Change = (key) => data(api.DELETE('/due/{key}/owner', path(key)))
const snoozed =
  (until: string): Change =>
  (key) =>
    data(api.PUT('/due/{key}/snooze', { ...path(key), body: { until } }))
const woken: Change = (key) => data(api.DELETE('/due/{key}/snooze', path(key)))
/** Changes all of them, and offers to put each back to what it was. */
async function all(said: string, act: Change, back: (i: Item) => Change) {
  const items = props.items
  if (!(await run(items, (i) => act(i.key)))) return
  emit('clear')
  offerUndo(`${some(items.length, 'item')} ${said}.`, () => run(items, (i) => back(i)(i.key)))
}
function own(person: number) {
  const whose = people.value?.items.find((o) => o.id === person)?.name
  const said = whose ? `assigned to ${whose}` : 'unassigned'
  return all(said, person ? assign(person) : unassign, (i) => (i.owner ? assign(i.owner.id) : unassign))
}
function snooze(days: number) {
  const until = daysOn(days)
  return all(`snoozed until ${until}`, snoozed(until), (i) => (i.snoozedUntil ? snoozed(i.snoozedUntil) : woken))
}
</script>

<template>
  <form class="row sheet bulk" aria-label="Actions for selected items" @submit.prevent>
    <strong>{{ many }} selected</strong>
    <ElDropdown
      trigger="click"
      :persistent="false"
      max-height="20rem"
      @visible-change="choosing ||= $event"
      @command="own"
      ><ElButton :loading="busy">Assign to</ElButton
      ><template #dropdown
        ><ElDropdownMenu
          ><ElDropdownItem v-for="o in people?.items ?? []" :key="o.id" :command="o.id">{{ o.name }}</ElDropdownItem
          ><ElDropdownItem :command="0" divided>Unassign</ElDropdownItem></ElDropdownMenu
        ></template
      ></ElDropdown
    >
    <ElDropdown trigger="click" :persistent="false" @command="snooze"
      ><ElButton :loading="busy">Snooze</ElButton
      ><template #dropdown
        ><ElDropdownMenu
          ><ElDropdownItem v-for="s in spans" :key="s.days" :command="s.days">{{
            s.name
          }}</ElDropdownItem></ElDropdownMenu
        ></template
      ></ElDropdown
    >
    <ElButton text @click="emit('clear')">Clear selection</ElButton>
  </form>
</template>
