<script setup lang="ts">
import { ElButton, ElDatePicker, ElDialog, ElInput } from 'element-plus'
import { ref, watch } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTrouble } from '../../composables/form'

/** Accepting a finding, with a reason and for a time. */
const finding = defineModel<Schemas['SiteFinding']>()
const reason = ref('')
const until = ref<string>()
const trouble = useTrouble()
watch(finding, () => {
  reason.value = ''
  until.value = undefined
  trouble.clear()
})
const past = (d: Date) => d.getTime() < Date.now() - 864e5
const accept = change(
  () =>
    data(
      api.PUT('/findings/{id}/acceptance', {
        params: { path: { id: finding.value!.id } },
        body: { reason: reason.value, until: until.value || undefined },
      }),
    ),
  ['inspections'],
  () => (finding.value = undefined),
  true,
)
</script>

<template>
  <ElDialog
    :model-value="!!finding"
    title="Accept this finding"
    width="min(32rem, 94vw)"
    append-to-body
    @close="finding = undefined"
  >
    <form @submit.prevent="trouble.guard(() => accept.mutateAsync(undefined))">
      <p>{{ finding?.message }}</p>
      <p class="soft small">
        An accepted finding does not need attention, as long as it stays the same. Your name, the time and the reason
        are recorded.
      </p>
      <label for="accept-why">Reason</label>
      <ElInput id="accept-why" v-model="reason" type="textarea" :rows="3" maxlength="200" />
      <label class="until"
        ><span>Last day (optional)</span
        ><ElDatePicker
          v-model="until"
          type="date"
          value-format="YYYY-MM-DD"
          :disabled-date="past"
          aria-label="Accepted until"
      /></label>
      <p v-if="trouble.text.value" role="alert" class="trouble small">{{ trouble.text.value }}</p>
      <div class="row after">
        <ElButton type="primary" native-type="submit" :disabled="!reason.trim()" :loading="accept.isPending.value"
          >Accept</ElButton
        ><ElButton @click="finding = undefined">Cancel</ElButton>
      </div>
    </form>
  </ElDialog>
</template>

<style scoped>
.after {
  margin-top: 1rem;
}
.until {
  display: grid;
  justify-items: start;
  margin-top: 0.8rem;
}
.trouble {
  color: var(--bad);
}
</style>
