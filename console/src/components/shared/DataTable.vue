<script setup lang="ts" generic="Row extends object">
import { ElButton, ElCheckbox, ElCheckboxGroup, ElIcon, ElPopover } from 'element-plus'
import { Bottom, Top } from '@element-plus/icons-vue'
import { computed, onMounted, ref, type ClassValue } from 'vue'
import { nextOrder, save, sorted, toCSV, useTable, type Column } from '../../composables/table'

/**
 * Rows that can be sorted by each column, with the columns that the person wants, and exported as they are shown.
 * Order and columns are kept in the browser under the table's name. A slot of a column's key replaces its text.
 */
const props = defineProps<{
  name: string
  label: string
  rows: Row[]
  columns: Column<Row>[]
  id: (row: Row) => number | string
  rowClass?: string | ((row: Row) => ClassValue)
  rowState?: (row: Row) => Record<string, string | undefined>
  /** Reads the rows that are not here yet; called before rows are sorted or exported. */
  rest?: () => Promise<unknown>
}>()
defineSlots<{
  [cell: string]: (p: { row: Row }) => unknown
  tools: () => unknown
  first: (p: { row: Row }) => unknown
  actions: (p: { row: Row }) => unknown
  firsthead: () => unknown
}>()
const table = useTable(props.name)
const shown = computed(() => props.columns.filter((c) => c.always || !table.hidden.includes(c.key)))
const lines = computed(() => sorted(props.rows, props.columns, table.order))
const way = (key: string) => (table.order?.key !== key ? 'none' : table.order.down ? 'descending' : 'ascending')
const classOf = (row: Row) => (typeof props.rowClass === 'function' ? props.rowClass(row) : props.rowClass)
const seen = computed({
  get: () => shown.value.map((c) => c.key),
  set: (keys: string[]) => (table.hidden = props.columns.map((c) => c.key).filter((k) => !keys.includes(k))),
})
const busy = ref(false)
async function whole(then: () => unknown) {
  busy.value = true
  try {
    await props.rest?.()
    await then()
  } finally {
    busy.value = false
  }
}
const sort = (c: Column<Row>) => whole(() => (table.order = nextOrder(c, table.order)))
function pick(e: Event) {
  const c = props.columns.find((o) => o.key === (e.target as HTMLSelectElement).value)
  return whole(() => (table.order = c && { key: c.key, down: !!c.number }))
}
const exportRows = () => whole(async () => save(`${props.name}.csv`, await toCSV(lines.value, shown.value)))
// An order that was kept holds for all rows, not for the first page of them.
onMounted(() => table.order && props.rest && whole(() => undefined))
</script>

<template>
  <div class="row small bar">
    <slot name="tools" />
    <select class="phone" :aria-label="`Sort ${label}`" :value="table.order?.key ?? ''" @change="pick">
      <option value="">Unsorted</option>
      <option v-for="c in shown" :key="c.key" :value="c.key">{{ c.label }}</option>
    </select>
    <ElPopover trigger="click" placement="bottom-end" :width="200" :persistent="false"
      ><template #reference><ElButton size="small" text>Columns</ElButton></template
      ><ElCheckboxGroup v-model="seen" :aria-label="`Columns of ${label}`"
        ><ElCheckbox
          v-for="c in columns"
          :key="c.key"
          :value="c.key"
          :label="c.label"
          :disabled="c.always"
          class="choice" /></ElCheckboxGroup
    ></ElPopover>
    <ElButton size="small" text :disabled="!rows.length" :loading="busy" @click="exportRows">Export CSV</ElButton>
  </div>
  <div class="wide" tabindex="0" role="region" :aria-label="label">
    <table class="plain" :data-table="name">
      <thead>
        <tr>
          <th v-if="$slots.first" scope="col"><slot name="firsthead" /></th>
          <th v-for="c in shown" :key="c.key" scope="col" :class="{ num: c.number }" :aria-sort="way(c.key)">
            <button type="button" @click="sort(c)">
              {{ c.label
              }}<ElIcon v-if="way(c.key) !== 'none'"><Bottom v-if="table.order?.down" /><Top v-else /></ElIcon>
            </button>
          </th>
          <th v-if="$slots.actions" scope="col"><span class="unseen">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in lines" :key="id(row)" :class="classOf(row)" v-bind="rowState?.(row)">
          <td v-if="$slots.first"><slot name="first" :row="row" /></td>
          <td
            v-for="c in shown"
            :key="c.key"
            :class="{ num: c.number, main: c.always, empty: !c.text(row) }"
            :data-column="c.key"
            :data-label="c.label"
          >
            <slot :name="c.key" :row="row">{{ c.text(row) }}</slot>
          </td>
          <td v-if="$slots.actions"><slot name="actions" :row="row" /></td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.bar {
  justify-content: end;
  gap: 0 0.2rem;
}
.choice {
  display: flex;
}
th button {
  all: unset;
  cursor: pointer;
  display: inline-flex;
  align-items: center;
  gap: 0.2rem;
  min-height: 1.5rem;
  white-space: nowrap;
}
th button:hover {
  color: var(--ink);
}
th button:focus-visible {
  outline: 2px solid var(--sea);
}
.phone {
  display: none;
}
:slotted(input[type='checkbox']) {
  width: 1.05rem;
  height: 1.05rem;
  accent-color: var(--sea);
}
/* On a phone each row is a block: what names it, then the other cells with their labels. */
@media (max-width: 40rem) {
  .phone {
    display: block;
    font: inherit;
    color: var(--ink);
    background: var(--sheet);
    border: 1px solid var(--rule);
    min-height: 2rem;
  }
  thead {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
  table,
  tbody,
  tr,
  td {
    display: block;
  }
  tr {
    padding: 0.5rem 0;
    border-bottom: 1px solid var(--rule);
  }
  table.plain td {
    display: grid;
    grid-template-columns: 7rem minmax(0, 1fr);
    gap: 0 0.8rem;
    border: 0;
    padding: 0.1rem 0;
    text-align: left;
  }
  table.plain td.empty {
    display: none;
  }
  table.plain td.main,
  table.plain td:not([data-label]) {
    display: block;
  }
  td[data-label]:not(.main)::before {
    content: attr(data-label);
    color: var(--ink-soft);
    font-size: 0.82rem;
  }
}
</style>
