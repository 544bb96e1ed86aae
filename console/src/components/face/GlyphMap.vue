<script setup lang="ts">
import { ElInput, ElOption, ElOptionGroup, ElSelect } from 'element-plus'
import { computed, onBeforeUnmount, onMounted, ref, shallowReactive, useTemplateRef, watch } from 'vue'
import { base, message, type Schemas } from '../../api/client'
import { faceCoverage, missingLetters, useCharacters } from '../../api/queries'
import { copy } from '../../composables/copy'
import { fontName, loadFont } from '../../composables/fontfile'
import { usePerson } from '../../composables/person'
import { some } from '../../composables/show'
import { useTaste } from '../../composables/taste'

/**
 * The characters of a face: code point and name at the pointer, copied when pressed. Only the rows in view are
 * rendered, and their characters are read when they come into view.
 */
const props = defineProps<{ file: Schemas['File']; place: number }>()
const taste = useTaste()
const person = usePerson()
const typed = ref('')
const port = useTemplateRef<HTMLElement>('port')
const q = ref('')
let settling = 0
watch(typed, (t) => {
  clearTimeout(settling)
  settling = window.setTimeout(() => (q.value = t.trim()), 200)
})
const set = ref('')
/** The characters that are found, by their place in the list; read in pages as they come into view. */
const read = useCharacters(props.file.id, props.place)
const page = 500
const pages = shallowReactive(new Map<number, Schemas['Character'][]>())
const asked = new Set<number>()
const total = ref<number>()
const failed = ref('')
let searches = 0
async function fetchPage(n: number) {
  if (asked.has(n)) return
  asked.add(n)
  const search = searches
  try {
    const found = await read(q.value, set.value, n * page, page)
    if (search !== searches) return
    total.value = found.total
    pages.set(n, found.items)
  } catch (e) {
    if (search !== searches) return
    asked.delete(n)
    failed.value = message(e)
  }
}
const { data: sets } = faceCoverage(props.file.id, props.place)
const groups = computed(() => [
  { label: 'Languages', of: sets.value?.languages ?? [] },
  { label: 'Blocks of Unicode', of: sets.value?.blocks ?? [] },
  { label: 'Scripts', of: sets.value?.scripts ?? [] },
])
/** A language of which letters are missing. */
const lacking = computed(() => sets.value?.languages.find((l) => l.set === set.value && l.covered < l.of))
const { data: missing } = missingLetters(
  props.file.id,
  props.place,
  computed(() => lacking.value?.set ?? ''),
)
const much = (s: Schemas['CoveredSet']) =>
  s.covered === s.of ? s.of.toLocaleString() : `${s.covered.toLocaleString()} of ${s.of.toLocaleString()}`
watch(
  [q, set],
  () => {
    searches++
    pages.clear()
    asked.clear()
    failed.value = ''
    port.value?.scrollTo({ top: 0 })
    void fetchPage(0)
  },
  { immediate: true },
)
const at = ref<{ code: number; name: string }>()
const copied = ref(0)
const point = (code: number) => `U+${code.toString(16).toUpperCase().padStart(4, '0')}`
async function take(c: { code: number; name: string }) {
  at.value = c
  await copy(String.fromCodePoint(c.code))
  copied.value = c.code
}
// Who may not have the font sees each character drawn.
const pictured = computed(() => person.value?.role === 'viewer')
const picture = (code: number) => {
  const query = { place: String(props.place), size: '28', dark: String(taste.dark), text: String.fromCodePoint(code) }
  return `${base}/files/${props.file.id}/specimen?${new URLSearchParams(query)}`
}
watch(
  person,
  (p) => p && p.role !== 'viewer' && void loadFont(props.file.id, props.file.format, props.place).catch(() => {}),
  { immediate: true },
)

const cell = 44
const width = ref(cell * 16)
const height = ref(cell * 10)
const top = ref(0)
const columns = computed(() => Math.max(1, Math.floor(width.value / cell)))
const rows = computed(() => Math.ceil((total.value ?? 0) / columns.value))
const first = computed(() => Math.max(0, Math.floor(top.value / cell) - 3))
const last = computed(() => Math.min(rows.value, Math.ceil((top.value + height.value) / cell) + 3))
const shown = computed(() => {
  const from = first.value * columns.value
  const to = Math.min(total.value ?? 0, last.value * columns.value)
  return Array.from({ length: Math.max(0, to - from) }, (_, i) => ({
    at: from + i,
    character: pages.get(Math.floor((from + i) / page))?.[(from + i) % page],
  }))
})
let sizes: ResizeObserver | undefined
onMounted(() => {
  sizes = new ResizeObserver(() => {
    width.value = port.value?.clientWidth ?? width.value
    height.value = port.value?.clientHeight ?? height.value
  })
  if (port.value) sizes.observe(port.value)
})
onBeforeUnmount(() => sizes?.disconnect())
// A drag of the scroll bar passes many pages; those are read where it rests.
let resting = 0
watch([first, last, columns, total], () => {
  clearTimeout(resting)
  resting = window.setTimeout(() => {
    const from = Math.floor((first.value * columns.value) / page)
    const to = Math.floor((last.value * columns.value) / page)
    for (let n = from; n <= to && n * page < (total.value ?? 1); n++) void fetchPage(n)
  }, 30)
})
</script>

<template>
  <div class="map">
    <div class="row top">
      <ElInput
        v-model="typed"
        class="find"
        placeholder="Character, name or U+20AC"
        clearable
        aria-label="Find a character"
      />
      <ElSelect
        v-model="set"
        class="find"
        filterable
        clearable
        :persistent="false"
        :value-on-clear="''"
        placeholder="Block, script or language"
        aria-label="Block, script or language"
        ><ElOptionGroup v-for="g in groups" :key="g.label" :label="g.label"
          ><ElOption v-for="s in g.of" :key="s.set" :value="s.set" :label="s.name"
            ><span class="set"
              ><span>{{ s.name }}</span
              ><span class="soft small">{{ much(s) }}</span></span
            ></ElOption
          ></ElOptionGroup
        ></ElSelect
      >
      <p class="at" aria-live="polite">
        <template v-if="at"
          ><span class="big" :style="{ fontFamily: `'${fontName(file.id, place)}'` }">{{
            String.fromCodePoint(at.code)
          }}</span
          ><code>{{ point(at.code) }}</code> {{ at.name }}
          <span v-if="copied === at.code" class="soft">copied</span></template
        ><span v-else class="soft">{{ some(total ?? 0, 'character') }}. Press one to copy it.</span>
      </p>
    </div>
    <p v-if="lacking && missing" class="small missing">
      {{ some(missing.items.length, 'letter') }} missing for {{ lacking.name }}:
      <span v-for="c in missing.items" :key="c.code" :title="`${point(c.code)} ${c.name}`" class="letter">{{
        String.fromCodePoint(c.code)
      }}</span>
    </p>
    <p v-else-if="set.startsWith('language:')" class="small soft">All letters of this language are in the font.</p>
    <div
      ref="port"
      class="port"
      :style="{ fontFamily: `'${fontName(file.id, place)}'` }"
      @scroll.passive="top = ($event.target as HTMLElement).scrollTop"
    >
      <div class="room" :style="{ height: `${rows * cell}px` }">
        <div
          class="grid"
          :style="{
            transform: `translateY(${first * cell}px)`,
            gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`,
          }"
        >
          <template v-for="c in shown" :key="c.at">
            <button
              v-if="c.character"
              type="button"
              :title="`${point(c.character.code)} ${c.character.name}`"
              :aria-label="`${point(c.character.code)} ${c.character.name}`"
              @click="take(c.character)"
              @mouseenter="at = c.character"
              @focus="at = c.character"
            >
              <img v-if="pictured" :src="picture(c.character.code)" alt="" loading="lazy" /><template v-else>{{
                String.fromCodePoint(c.character.code)
              }}</template>
            </button>
            <span v-else class="coming" aria-hidden="true">·</span>
          </template>
        </div>
      </div>
    </div>
    <p v-if="failed" role="alert" class="failed small">{{ failed }}</p>
    <p v-else-if="total === 0" class="soft small">No characters found.</p>
  </div>
</template>

<style scoped>
.top {
  margin: 0.3rem 0 0.6rem;
}
.find {
  flex: 0 1 18rem;
  width: auto;
}
.set {
  display: flex;
  justify-content: space-between;
  gap: 1.5rem;
}
.missing {
  color: var(--caution);
  margin: 0 0 0.6rem;
}
.letter {
  display: inline-block;
  min-width: 1.4em;
  text-align: center;
  color: var(--ink);
  border: 1px solid var(--rule);
  margin: 0 0.15rem 0.15rem 0;
}
.at {
  margin: 0;
  min-height: 2.2rem;
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
.big {
  font-size: 1.6rem;
  min-width: 2rem;
  text-align: center;
}
.port {
  height: min(34rem, 70vh);
  overflow: auto;
  border: 1px solid var(--rule);
  background: var(--sheet);
  font-synthesis: none;
  contain: strict;
}
.room {
  overflow: hidden;
}
.grid {
  display: grid;
}
.grid button {
  height: 44px;
  border: 1px solid transparent;
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 1.35rem;
  line-height: 1;
  padding: 0;
  cursor: pointer;
  overflow: hidden;
}
.grid button:hover,
.grid button:focus-visible {
  border-color: var(--sea);
  background: var(--page);
}
.coming {
  height: 44px;
  display: grid;
  place-items: center;
  color: var(--rule);
}
.failed {
  color: var(--bad);
}
.grid img {
  max-width: 100%;
  max-height: 100%;
}
</style>
