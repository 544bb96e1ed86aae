<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElButton, ElDialog, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, data, message } from '../../api/client'
import { builders, change, clients } from '../../api/queries'
import { saveBlob } from '../../composables/builder'
import { useTrouble } from '../../composables/form'
import { some } from '../../composables/show'
import VerdictTag from '../shared/VerdictTag.vue'

/** A pack of everything of a client, to install on one machine; seats are counted for whom it is for. */
defineProps<{ mayBuild: boolean }>()
const open = defineModel<boolean>({ required: true })
const { data: known } = clients()
const { data: kinds } = builders()
const client = ref<number>()
const kind = ref('desktop')
const seat = ref('')
const asked = ref('')
watch(seat, (_, __, onCleanup) => {
  const wait = setTimeout(() => (asked.value = seat.value.trim()), 400)
  onCleanup(() => clearTimeout(wait))
})
watch(known, (k) => (client.value ??= k?.items.find((c) => c.studio)?.id), { immediate: true })
const usable = computed(() => kinds.value?.items.filter((b) => !b.rules.urls.after) ?? [])
const { data: plan, error } = useQuery({
  queryKey: ['licenses', 'client-pack', client, kind, asked],
  enabled: computed(() => open.value && !!client.value),
  retry: false,
  queryFn: () =>
    data(
      api.GET('/clients/{id}/pack', {
        params: { path: { id: client.value! }, query: { builder: kind.value, seat: asked.value || undefined } },
      }),
    ),
})
const trouble = useTrouble()
watch([open, client, kind, seat], () => trouble.clear())
const build = change(
  async () => {
    const zip = await data(
      api.POST('/clients/{id}/pack', {
        params: { path: { id: client.value! } },
        body: { builder: kind.value, seat: seat.value.trim() || undefined },
        parseAs: 'blob',
      }),
    )
    saveBlob(zip as unknown as Blob, `${plan.value?.client.name} for ${kind.value}.zip`)
  },
  ['licenses'],
  undefined,
  true,
)
</script>

<template>
  <ElDialog v-model="open" title="Fonts for a computer" width="min(46rem, 94vw)" top="6vh" append-to-body>
    <form @submit.prevent="trouble.guard(() => build.mutateAsync(undefined))">
      <p class="soft small">
        All families that a client owns, uses or has licensed, with scripts that install and uninstall them on Linux,
        macOS and Windows.
      </p>
      <div class="row fields">
        <ElSelect v-model="client" filterable aria-label="Client"
          ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name"
        /></ElSelect>
        <ElSelect v-model="kind" aria-label="Builder"
          ><ElOption v-for="b in usable" :key="b.rules.kind" :value="b.rules.kind" :label="b.rules.name"
        /></ElSelect>
        <ElInput v-model="seat" maxlength="200" placeholder="Person; uses a seat" aria-label="Person" />
      </div>
      <p v-if="error" role="alert" class="alarm">{{ message(error) }}</p>
      <template v-else-if="plan">
        <table class="plain small">
          <thead>
            <tr>
              <th>Family</th>
              <th>Verdict</th>
              <th></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="f in plan.families" :key="f.family.id">
              <td>{{ f.family.name }}</td>
              <td><VerdictTag :state="f.verdict" /></td>
              <td class="soft">{{ some(f.faces, 'face') }}</td>
            </tr>
            <tr v-for="l in plan.leftOut" :key="l.family" class="left">
              <td>{{ l.family }}</td>
              <td>not included</td>
              <td>{{ l.why }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="!plan.families.length && !plan.leftOut.length" class="soft">No family of this client.</p>
        <ul v-if="plan.seats.length" class="small">
          <li v-for="s in plan.seats" :key="s.license.id">
            {{ s.license.name }}: {{ s.used }} of {{ some(s.of, 'seat') }} in use<template v-if="s.full"
              >; none left</template
            ><template v-else-if="s.taken">; {{ seat }} has one</template
            ><template v-else-if="asked">; {{ asked }} takes one</template>.
          </li>
        </ul>
      </template>
      <p v-else class="soft">Loading …</p>
      <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton
          v-if="mayBuild"
          type="primary"
          native-type="submit"
          :disabled="!plan?.families.length"
          :loading="build.isPending.value"
          >Build and download</ElButton
        ><ElButton text @click="open = false">Cancel</ElButton>
      </div>
    </form>
  </ElDialog>
</template>

<style scoped>
.fields > * {
  flex: 1 1 12rem;
}
.left {
  color: var(--ink-soft);
}
.alarm {
  color: var(--bad);
}
</style>
