<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, data } from '../api/client'
import { change, clients, me, shortlists } from '../api/queries'
import Trouble from '../components/shared/Trouble.vue'

/** Named, ordered picks of families. */
const router = useRouter()
const { data: lists, error, isPending } = shortlists(ref(''))
const { data: known } = clients()
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const name = ref('')
const client = ref('')
watch(known, (k) => (client.value ||= k?.items.find((c) => c.studio)?.name ?? ''), { immediate: true })
const start = change(
  () => data(api.POST('/shortlists', { body: { name: name.value, client: client.value } })),
  ['shortlists'],
  (l) => void router.push(`/shortlists/${l.id}`),
)
</script>

<template>
  <div class="page">
    <div class="head"><h1>Shortlists</h1></div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <p v-else-if="!lists?.length" class="soft">
      No shortlists yet. A shortlist is a selection of families for a client or a project. Its families come first when
      you choose one for that client.
    </p>
    <ul class="list">
      <li v-for="l in lists ?? []" :key="l.id" class="line">
        <RouterLink :to="`/shortlists/${l.id}`"
          ><strong>{{ l.name }}</strong></RouterLink
        >
        <span class="soft">{{ l.client.name }}</span>
        <span>{{ l.families.map((f) => f.name).join(', ') || 'No families yet' }}</span>
      </li>
    </ul>
    <form v-if="mayEdit" class="row sheet add" @submit.prevent="start.mutate(undefined)">
      <ElInput
        v-model="name"
        class="name"
        placeholder="Name of a new shortlist"
        aria-label="Name of a new shortlist"
        maxlength="200"
      />
      <ElSelect v-model="client" class="client" aria-label="For the client"
        ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.name" :label="c.name"
      /></ElSelect>
      <ElButton native-type="submit" type="primary" :disabled="!name.trim()">Create</ElButton>
    </form>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: minmax(0, 18rem) minmax(0, 14rem) minmax(0, 1fr);
  gap: 0.2rem 1rem;
  padding: 0.6rem 0;
}
.add {
  margin-top: 1.2rem;
}
.name {
  flex: 1 1 14rem;
  width: auto;
}
.client {
  flex: 0 1 15rem;
}
@media (max-width: 46rem) {
  .line {
    grid-template-columns: 1fr;
  }
}
</style>
