<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { base } from '../../api/client'
import { characters, me } from '../../api/queries'
import { copy } from '../../state/copy'
import { useTaste } from '../../state/taste'

/** Every character of a face: its code point and name where the pointer is, copied when pressed. */
const props = defineProps<{ fileId: number; place: number; family: string }>()
const taste = useTaste()
const { data: person } = me()
const typed = ref('')
const q = ref('')
let settling = 0
watch(typed, (t) => {
  clearTimeout(settling)
  settling = window.setTimeout(() => (q.value = t.trim()), 200)
})
const { data, hasNextPage, fetchNextPage, isFetching } = characters(props.fileId, props.place, q)
const all = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
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
  return `${base}/files/${props.fileId}/specimen?${new URLSearchParams(query)}`
}
</script>

<template>
  <div class="map">
    <div class="row top">
      <ElInput
        v-model="typed"
        class="find"
        placeholder="Find: a character, its name, U+20AC"
        clearable
        aria-label="Find a character"
      />
      <p class="at" aria-live="polite">
        <template v-if="at"
          ><span class="big" :style="{ fontFamily: `'${family}'` }">{{ String.fromCodePoint(at.code) }}</span
          ><code>{{ point(at.code) }}</code> {{ at.name }}
          <span v-if="copied === at.code" class="soft">copied</span></template
        ><span v-else class="soft">{{ data?.pages[0]?.total }} characters; press one to copy it.</span>
      </p>
    </div>
    <div class="grid" :style="{ fontFamily: `'${family}'` }">
      <button
        v-for="c in all"
        :key="c.code"
        type="button"
        :title="`${point(c.code)} ${c.name}`"
        :aria-label="`${point(c.code)} ${c.name}`"
        @click="take(c)"
        @mouseenter="at = c"
        @focus="at = c"
      >
        <img v-if="pictured" :src="picture(c.code)" alt="" loading="lazy" /><template v-else>{{
          String.fromCodePoint(c.code)
        }}</template>
      </button>
    </div>
    <p v-if="!all.length && !isFetching" class="soft small">The face has no such character.</p>
    <ElButton v-if="hasNextPage" :loading="isFetching" size="small" @click="fetchNextPage()">More characters</ElButton>
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
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(2.6rem, 1fr));
  gap: 1px;
  max-height: 24rem;
  overflow: auto;
  font-synthesis: none;
}
.grid button {
  height: 2.6rem;
  border: 1px solid var(--rule);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 1.35rem;
  line-height: 1;
  padding: 0;
  cursor: pointer;
  content-visibility: auto;
  overflow: hidden;
}
.grid button:hover,
.grid button:focus-visible {
  border-color: var(--sea);
  background: var(--page);
}
.grid img {
  max-width: 100%;
  max-height: 100%;
}
</style>
