<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { some } from '../../composables/show'

/** A piece of embed code or an address: read, shown, and its families kept as hosted elsewhere. */
const props = defineProps<{ client: string }>()
const router = useRouter()
const asked = useRoute().query.paste
const text = ref(typeof asked === 'string' ? asked : '')
const reading = ref<Schemas['HostedReading']>()
const found = computed(() => [...new Set(reading.value?.sheets.flatMap((s) => s.families.map((f) => f.name)))])
const { mutate: readIt, isPending: isReading } = change(
  (t: string) => data(api.POST('/hosted/read', { body: { text: t } })),
  [],
  (r) => (reading.value = r),
)
const { mutate: keepIt, isPending: isKeeping } = change(
  () => data(api.POST('/hosted', { body: { text: text.value, client: props.client } })),
  ['families'],
  (added) =>
    void router.push(added.families.length === 1 ? `/families/${added.families[0]!.id}` : '/families?origin=hosted'),
)
const weight = (h: Schemas['HostedFace']) =>
  (h.weightMin === h.weightMax ? `${h.weightMin}` : `${h.weightMin} to ${h.weightMax}`) +
  (h.style === 'normal' ? '' : ` ${h.style}`)
/** Weights and styles of a family, each once. */
const styles = (f: Schemas['HostedFamily']) => [...new Set(f.faces.map(weight))].join(', ')
</script>

<template>
  <form class="sheet paste" @submit.prevent="readIt(text)">
    <label
      ><span class="soft small">Or paste hosted font code: a link tag, an @import rule, a URL, @font-face rules</span>
      <ElInput
        v-model="text"
        type="textarea"
        :autosize="{ minRows: 2, maxRows: 12 }"
        aria-label="Code or URL"
        spellcheck="false"
        placeholder='&lt;link rel="stylesheet" href="https://type.example/sheet.css"&gt;'
        @input="reading = undefined"
    /></label>
    <div class="row">
      <ElButton native-type="submit" :disabled="!text.trim()" :loading="isReading">Read code</ElButton>
      <ElButton v-if="found.length" type="primary" :loading="isKeeping" @click="keepIt(undefined)"
        >Add {{ some(found.length, 'family', 'families') }} to the catalog</ElButton
      >
    </div>
    <div v-if="reading" aria-live="polite">
      <p v-for="n in reading.notes" :key="n" class="note small">{{ n }}</p>
      <section v-for="s in reading.sheets" :key="s.url + s.host">
        <h3>{{ s.url || `Rules with files at ${s.host}` }}</h3>
        <p v-if="s.trouble" class="trouble">{{ s.trouble }}</p>
        <ul v-else class="list">
          <li v-for="f in s.families" :key="f.name" class="row found">
            <strong>{{ f.name }}</strong><span>{{ styles(f) }}</span>
            <details class="small rules">
              <summary>{{ some(f.faces.length, 'rule') }}</summary>
              <ul>
                <li v-for="(h, i) in f.faces" :key="i">
                  {{ weight(h) }}: {{ h.range ?? 'all characters' }}
                  <span class="soft"
                    >({{ h.files.map((x) => x.format || 'not said').join(', ') || 'a local font only' }})</span
                  >
                </li>
              </ul>
            </details>
          </li>
        </ul>
      </section>
    </div>
  </form>
</template>

<style scoped>
.paste {
  display: grid;
  gap: 0.7rem;
  margin-top: 0.9rem;
}
label {
  display: grid;
}
h3 {
  font-size: 0.9rem;
  margin: 0.6rem 0 0.2rem;
  overflow-wrap: anywhere;
}
.note {
  color: var(--caution);
  margin: 0.2rem 0;
}
.trouble {
  color: var(--bad);
  margin: 0.2rem 0;
}
.rules summary {
  cursor: pointer;
  color: var(--sea);
}
.rules {
  flex-basis: 100%;
}
.found {
  padding: 0.3rem 0;
}
</style>
