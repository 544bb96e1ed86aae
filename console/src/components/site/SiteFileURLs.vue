<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput } from 'element-plus'
import { ref, toRef } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, urls } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import FileURLLine from './FileURLLine.vue'
import PasteBox from '../shared/PasteBox.vue'

/**
 * The URLs of uploaded files, pasted all at once or one by one; then the code to paste into the platform appears
 * finished.
 */
const props = defineProps<{ id: number; environment: string; mayEdit: boolean }>()
const { data: known } = urls(toRef(props, 'id'), toRef(props, 'environment'))
const text = ref('')
const inOrder = ref(false)
const notes = ref<string[]>([])
const trouble = useTrouble()
const give = change(
  (body: Schemas['NewFileURLs']) =>
    data(
      api.POST('/sites/{id}/file-urls', {
        params: { path: { id: props.id } },
        body: { environment: props.environment || undefined, ...body },
      }),
    ),
  ['sites'],
  (now) => {
    notes.value = now.notes
    text.value = ''
  },
  true,
)
const forget = change(
  (file: string) =>
    data(
      api.DELETE('/sites/{id}/file-urls', {
        params: { path: { id: props.id }, query: { environment: props.environment || undefined, file } },
      }),
    ),
  ['sites'],
)
const all = () => trouble.guard(() => give.mutateAsync({ text: text.value, inOrder: inOrder.value }))
const single = (file: string, address: string) => trouble.guard(() => give.mutateAsync({ text: address, file }))
</script>

<template>
  <section v-if="known" aria-label="File URLs">
    <h2>File URLs</h2>
    <p class="soft small">
      The platform assigns file URLs after the upload. Paste them here; the finished styles then appear below.
    </p>
    <template v-if="mayEdit && known.missing.length">
      <form @submit.prevent="all">
        <ElInput
          v-model="text"
          type="textarea"
          :rows="3"
          placeholder="Paste all file URLs in any form: a list, tags, a stylesheet"
          aria-label="File URLs"
        />
        <div class="row under">
          <ElButton type="primary" native-type="submit" :disabled="!text.trim()" :loading="give.isPending.value"
            >Match URLs</ElButton
          ><ElCheckbox v-model="inOrder" label="They have no names; use the order of the upload slip" />
        </div>
      </form>
      <p v-if="trouble.text.value" role="alert" class="trouble small">{{ trouble.text.value }}</p>
      <ul v-if="notes.length" class="small">
        <li v-for="n in notes" :key="n">{{ n }}</li>
      </ul>
      <h3 class="small">Missing</h3>
      <ul class="list">
        <FileURLLine v-for="f in known.missing" :key="f" :file="f" @give="(address) => single(f, address)" />
      </ul>
    </template>
    <template v-if="known.items.length">
      <h3 class="small">Up</h3>
      <ul class="list small">
        <li v-for="f in known.items" :key="f.file" class="row one">
          <code>{{ f.file }}</code><span class="soft where"
            >{{ f.url }}<strong v-if="f.replaced" class="again"> to be replaced: the file has changed</strong></span
          ><ElButton
            v-if="mayEdit"
            size="small"
            text
            :aria-label="`Remove the URL of ${f.file}`"
            @click="forget.mutate(f.file)"
            >Remove</ElButton
          >
        </li>
      </ul>
    </template>
    <p v-for="n in known.notes" :key="n" class="trouble small">{{ n }}</p>
    <template v-if="known.pastes.length && !known.missing.filter((f) => f !== 'fonts.css').length">
      <h3 class="small">Finished</h3>
      <PasteBox v-for="p in known.pastes" :key="p.name" :paste="p" />
    </template>
  </section>
</template>

<style scoped>
h3 {
  margin: 1rem 0 0.3rem;
}
.under {
  margin-top: 0.5rem;
}
.one {
  justify-content: space-between;
  padding: 0.3rem 0;
}
.where {
  flex: 1 1 16rem;
  overflow-wrap: anywhere;
}
.again {
  color: var(--caution);
}
.trouble {
  color: var(--bad);
}
code {
  font-family: ui-monospace, 'Liberation Mono', monospace;
}
</style>
