<script setup lang="ts">
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { computed, ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, owners } from '../../api/queries'
import { daysOn, spans } from '../../composables/home'
import { some } from '../../composables/show'
import { offerUndo } from '../../composables/undo'

/** What can be done with several things that need attention: assign them, snooze them. */
const props = defineProps<{ items: Schemas['DueItem'][] }>()
const emit = defineEmits<{ clear: [] }>()
const choosing = ref(false)
const { data: people } = owners(choosing)
const many = computed(() => some(props.items.length, 'item'))
type Change = (key: string) => Promise<unknown>
const each = change(
  async ({ items, run }: { items: Schemas['DueItem'][]; run: (i: Schemas['DueItem']) => Promise<unknown> }) => {
    for (const i of items) await run(i)
  },
  [],
)
const path = (key: string) => ({ params: { path: { key } } })
const assign =
  (person: number): Change =>
  (key) =>
    data(api.PUT('/due/{key}/owner', { ...path(key), body: { person } }))
const unassign: Change = (key) => data(api.DELETE('/due/{key}/owner', path(key)))
async function own(person: number) {
  const items = props.items
  const run = person ? assign(person) : unassign
  await each.mutateAsync({ items, run: (i) => run(i.key) })
  emit('clear')
  const whose = people.value?.items.find((o) => o.id === person)?.name ?? 'nobody'
  offerUndo(`${some(items.length, 'item')} assigned to ${whose}.`, () =>
    each.mutate({ items, run: (i) => (i.owner ? assign(i.owner.id) : unassign)(i.key) }),
  )
}
async function snooze(days: number) {
  const items = props.items
  const until = daysOn(days)
  await each.mutateAsync({ items, run: (i) => data(api.PUT('/due/{key}/snooze', { ...path(i.key), body: { until } })) })
  emit('clear')
  offerUndo(`${some(items.length, 'item')} snoozed until ${until}.`, () =>
    each.mutate({ items, run: (i) => data(api.DELETE('/due/{key}/snooze', path(i.key))) }),
  )
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
      ><ElButton :loading="each.isPending.value">Assign to</ElButton
      ><template #dropdown
        ><ElDropdownMenu
          ><ElDropdownItem v-for="o in people?.items ?? []" :key="o.id" :command="o.id">{{ o.name }}</ElDropdownItem
          ><ElDropdownItem :command="0" divided>Nobody</ElDropdownItem></ElDropdownMenu
        ></template
      ></ElDropdown
    >
    <ElDropdown trigger="click" :persistent="false" @command="snooze"
      ><ElButton :loading="each.isPending.value">Snooze</ElButton
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

<style scoped>
.bulk {
  position: sticky;
  top: 0;
  z-index: 2;
  margin-bottom: 0.8rem;
}
</style>
