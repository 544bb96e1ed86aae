<script setup lang="ts">
import { ElButton, ElInput, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import { api, data, type Schemas } from '../api/client'
import { change, findings, inspections, me, site } from '../api/queries'
import FindingList from '../components/inspection/FindingList.vue'
import SiteHead from '../components/site/SiteHead.vue'
import DataTable from '../components/shared/DataTable.vue'
import Trouble from '../components/shared/Trouble.vue'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { useTrouble } from '../composables/form'
import { some, when } from '../composables/show'
import type { Column } from '../composables/table'

/** Inspections of a site's published pages: start one, have it looked at by itself, and what was found. */
const props = defineProps<{ id: number }>()
const id = toRef(props, 'id')
const { data: s, error } = site(id)
const { data: known, error: unread } = inspections(id)
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const listed = computed(() => known.value?.pages ?? [])
const state = ref<Schemas['FindingState']>('open')
const { data: found } = findings(id, state)
const text = ref('')
const survey = ref(0)
const trouble = useTrouble()
const path = computed(() => ({ params: { path: { id: props.id } } }))
const start = change(
  () => {
    const pages = text.value.split(/\s+/).filter(Boolean)
    return data(
      api.POST('/sites/{id}/inspections', {
        ...path.value,
        body: { pages: pages.length ? pages : undefined, survey: survey.value || undefined },
      }),
    )
  },
  ['inspections'],
  () => (text.value = ''),
  true,
)
const schedule = change(
  (every: Schemas['InspectionSchedule']['every']) =>
    data(
      api.PUT('/sites/{id}/inspections/schedule', {
        ...path.value,
        body: { every, survey: known.value?.schedule.survey || survey.value },
      }),
    ),
  ['inspections'],
)
const states = { waiting: 'waiting', running: 'under way', done: 'done', failed: 'failed' }
const count = (key: 'pages' | 'errors' | 'warnings' | 'notes' | 'fresh' | 'gone', label: string): Column<Row> => ({
  key,
  label,
  text: (i) => String(i[key]),
  by: (i) => i[key],
  number: true,
})
type Row = Schemas['Inspection']
const columns: Column<Row>[] = [
  { key: 'at', label: 'Inspection', text: (i) => when(i.askedAt), by: (i) => i.askedAt, always: true },
  { key: 'state', label: 'State', text: (i) => states[i.state] },
  count('pages', 'Pages'),
  count('errors', 'Errors'),
  count('warnings', 'Warnings'),
  count('notes', 'Notes'),
  count('fresh', 'New'),
  count('gone', 'Gone'),
]
const spans = [
  { value: 'never', label: 'On request only' },
  { value: 'day', label: 'Every night' },
  { value: 'week', label: 'Every week' },
] as const
</script>

<template>
  <div class="page">
    <Trouble v-if="error || unread" :error="(error ?? unread)!" />
    <template v-else-if="s">
      <SiteHead :site="s" />
      <p class="soft">
        The published pages are opened in a browser without local fonts, as phone and desktop. The inspection lists
        which fonts load, which text they show, problems, and whether the fonts may be used.
      </p>
      <form v-if="mayEdit" class="sheet ask" @submit.prevent="trouble.guard(() => start.mutateAsync(undefined))">
        <label for="pages">Pages to inspect</label>
        <ElInput
          id="pages"
          v-model="text"
          type="textarea"
          :rows="2"
          :placeholder="listed.join('\n') || 'https://www.harbour.example/prices'"
        />
        <div class="row choices">
          <label class="row"
            ><span>Follow links to at most</span
            ><ElInputNumber v-model="survey" :min="0" :max="100" :step="10" aria-label="Pages to follow links to"
          /></label>
          <ElButton type="primary" native-type="submit" :loading="start.isPending.value">Inspect</ElButton>
        </div>
        <p v-if="!text && listed.length" class="soft small">
          Without URLs, {{ some(listed.length, 'page') }} of the site’s list
          {{ listed.length === 1 ? 'is' : 'are' }} inspected.
        </p>
        <p v-if="trouble.text.value" role="alert" class="trouble small">{{ trouble.text.value }}</p>
      </form>
      <template v-if="known">
        <div class="row by">
          <label class="row"
            ><span>Automatic inspections</span
            ><ElSelect
              :model-value="known.schedule.every"
              :disabled="!mayEdit"
              aria-label="Automatic inspections"
              class="every"
              @change="schedule.mutate($event)"
              ><ElOption v-for="o in spans" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
          ></label>
          <span v-if="known.schedule.next" class="soft small"
            >Next {{ when(known.schedule.next)
            }}<template v-if="known.schedule.survey"
              >, following links to {{ some(known.schedule.survey, 'page') }}</template
            ></span
          >
        </div>
        <DataTable
          v-if="known.items.length"
          :id="(i) => i.id"
          name="inspections"
          label="Inspections"
          :rows="known.items"
          :columns="columns"
        >
          <template #at="{ row: i }">
            <RouterLink :to="`/inspections/${i.id}`"><TimeAgo :at="i.askedAt" /></RouterLink>
            <span class="soft small"> {{ i.scheduled ? 'by its schedule' : i.askedBy }}</span>
          </template>
          <template #state="{ row: i }"
            ><span :data-state="i.state"
              >{{ states[i.state] }}<span v-if="i.error" class="small trouble">: {{ i.error }}</span></span
            ></template
          >
        </DataTable>
        <p v-else class="soft">No inspections yet.</p>
        <section v-if="known.items.length" aria-label="Findings">
          <div class="row split">
            <h2>Findings</h2>
            <ElSelect v-model="state" aria-label="Which findings" class="every">
              <ElOption value="open" label="Open" /><ElOption value="accepted" label="Accepted" /><ElOption
                value="gone"
                label="Gone"
              />
            </ElSelect>
          </div>
          <p v-if="found && !found.length" class="soft">No findings.</p>
          <FindingList v-if="found" :findings="found" :may-edit="mayEdit" page />
        </section>
      </template>
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.ask {
  margin-bottom: 1rem;
}
.choices {
  justify-content: space-between;
  margin-top: 0.6rem;
}
.by {
  margin: 0.6rem 0;
}
.every {
  width: 14rem;
}
.split {
  justify-content: space-between;
}
.trouble {
  color: var(--bad);
}
</style>
