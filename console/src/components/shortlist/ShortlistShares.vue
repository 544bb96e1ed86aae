<script setup lang="ts">
import { ElButton, ElInput, ElInputNumber } from 'element-plus'
import { ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTaste } from '../../composables/taste'
import { some, when } from '../../composables/show'
import CopyLine from '../shared/CopyLine.vue'
import TimeAgo from '../shared/TimeAgo.vue'
import { sure } from '../../composables/ask'

/** Links by which a client sees a shortlist without an account. */
const props = defineProps<{ list: Schemas['Shortlist']; mayEdit: boolean }>()
const words = ref(useTaste().words)
const days = ref(14)
const made = ref('')
const path = { id: props.list.id }
const share = change(
  () =>
    data(
      api.POST('/shortlists/{id}/shares', { params: { path }, body: { sampleText: words.value, days: days.value } }),
    ),
  ['shortlists'],
  (a) => (made.value = location.origin + a.path),
)
const revoke = change(
  (shareId: number) =>
    data(api.DELETE('/shortlists/{id}/shares/{shareId}', { params: { path: { ...path, shareId } } })),
  ['shortlists'],
)
const states = { open: 'Works', ended: 'Ended', revoked: 'Revoked' }
async function ask(id: number) {
  if (await sure('Revoke this link?', 'The page behind it can no longer be opened. This cannot be undone.', 'Revoke'))
    revoke.mutate(id)
}
</script>

<template>
  <h2>For the client</h2>
  <p class="soft">
    A page that anybody with its link can see, until it ends. Families whose license is clear for the client’s web are
    set in their fonts, the others are pictures.
  </p>
  <form v-if="mayEdit" class="row sheet" @submit.prevent="share.mutate(undefined)">
    <ElInput
      v-model="words"
      class="words"
      placeholder="Their words; each family’s own sample if left empty"
      aria-label="Sample text"
      maxlength="400"
    />
    <label class="row"
      ><span class="soft small">Days</span
      ><ElInputNumber v-model="days" :min="1" :max="365" :controls="false" aria-label="Days" class="days"
    /></label>
    <ElButton native-type="submit" type="primary" :loading="share.isPending.value">Make a link</ElButton>
  </form>
  <div v-if="made" class="sheet made" role="status">
    <CopyLine name="Link" :value="made" />
    <p class="soft small">
      Copy it now. It is not shown again. <a :href="made" target="_blank" rel="noopener">Open link</a>.
    </p>
  </div>
  <ul class="list">
    <li v-for="h in list.shares" :key="h.id" class="row link">
      <strong :class="h.state">{{ states[h.state] }}</strong>
      <span
        >until {{ when(h.endsAt) }}, opened {{ some(h.views, 'time')
        }}<template v-if="h.sampleText">: “{{ h.sampleText }}”</template></span
      >
      <span class="soft small">{{ h.createdBy }}, <TimeAgo :at="h.createdAt" /></span>
      <ElButton v-if="mayEdit && h.state === 'open'" size="small" @click="ask(h.id)">Revoke</ElButton>
    </li>
  </ul>
</template>

<style scoped>
.words {
  flex: 1 1 18rem;
  width: auto;
}
.days {
  width: 5rem;
}
.made {
  margin-top: 0.6rem;
}
.made p {
  margin: 0.3rem 0 0;
}
.link {
  padding: 0.5rem 0;
}
.open {
  color: var(--good);
}
</style>
