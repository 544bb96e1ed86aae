<script setup lang="ts">
import { ElButton, ElInputNumber } from 'element-plus'
import { computed, defineAsyncComponent, ref, toRef } from 'vue'
import { api, data } from '../../api/client'
import { change, views } from '../../api/queries'
import { month } from '../../composables/show'

/** Page views of a site by month, against the limits of its licenses. */
const props = defineProps<{ id: number; mayEdit: boolean }>()
const ViewsChart = defineAsyncComponent(() => import('./ViewsChart.vue'))
const { data: v } = views(toRef(props, 'id'))
const last = new Date()
last.setUTCDate(0)
const at = ref(last.toISOString().slice(0, 7))
const count = ref<number>()
const enter = change(
  () =>
    data(
      api.PUT('/sites/{id}/views', {
        params: { path: { id: props.id } },
        body: { items: [{ month: at.value, views: count.value ?? 0 }] },
      }),
    ),
  ['sites', 'licenses', 'families'],
  () => (count.value = undefined),
)
const load = change(
  (file: File) => {
    const body = new FormData()
    body.append('file', file)
    return data(api.POST('/sites/{id}/views', { params: { path: { id: props.id } }, body: body as never }))
  },
  ['sites', 'licenses', 'families'],
)
function picked(e: Event) {
  const input = e.target as HTMLInputElement
  for (const f of input.files ?? []) load.mutate(f)
  input.value = ''
}
const said = computed(() =>
  (v.value?.limits ?? []).map((l) => {
    const name = l.license.name.replace(/^license /, '')
    const had = `${l.latest.toLocaleString()}${l.month ? ` in ${month(l.month)}` : ''}`
    const allows = `License ${name} allows ${l.cap.toLocaleString()} a month.`
    const now = `${allows} All sites that count against it had ${had}.`
    if (l.latest > l.cap) return { id: l.license.id, over: true, text: `${now} That is over the limit.` }
    return {
      id: l.license.id,
      over: false,
      text: l.reached ? `${now} Trend the limit is passed in ${month(l.reached)}.` : now,
    }
  }),
)
</script>

<template>
  <section v-if="v && (mayEdit || v.months.length || v.live.length)">
    <h2>Page views</h2>
    <div class="sheet">
      <p v-for="l in said" :key="l.id" :class="{ over: l.over }">{{ l.text }}</p>
      <p v-if="!v.months.length" class="soft">No page views yet. Licenses with a page-view limit need them.</p>
      <ViewsChart v-else :views="v" />
      <p v-for="l in v.live" :key="l.month" class="soft">
        Live stylesheets had {{ l.visitors.toLocaleString() }} {{ l.visitors === 1 ? 'visitor' : 'visitors' }} in
        {{ l.month }}, counted apart from page views.<template v-if="l.jump">
          One day had many more visitors than the days before.</template
        >
      </p>
      <form v-if="mayEdit" class="row" @submit.prevent="enter.mutate(undefined)">
        <input v-model="at" class="at" type="month" aria-label="Month" required /><ElInputNumber
          v-model="count"
          :min="0"
          :controls="false"
          placeholder="Page views"
          aria-label="Page views"
        />
        <ElButton native-type="submit" :disabled="count === undefined || count === null">Enter</ElButton>
        <label class="act"
          >Import a CSV file<input
            type="file"
            class="hidden"
            accept=".csv,.tsv,.txt,text/csv"
            aria-label="CSV file with page views"
            @change="picked"
        /></label>
      </form>
    </div>
  </section>
</template>

<style scoped>
p {
  margin: 0 0 0.6rem;
}
form {
  margin-top: 0.9rem;
}
form :deep(.el-input-number input) {
  text-align: left;
}
.over {
  color: var(--bad);
  font-weight: 600;
}
.at {
  font: inherit;
  color: inherit;
  background: var(--sheet);
  border: 1px solid var(--el-border-color);
  border-radius: 3px;
  padding: 0.2rem 0.5rem;
}
.act {
  color: var(--sea);
  cursor: pointer;
}
.act:hover {
  text-decoration: underline;
}
.act:focus-within {
  outline: 2px solid var(--rust);
  outline-offset: 2px;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
</style>
