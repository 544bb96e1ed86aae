<script setup lang="ts">
import { ElButton, ElDatePicker, ElDialog, ElInput } from 'element-plus'
import { ref, watch } from 'vue'
import { api, data } from '../../api/client'
import { change } from '../../api/queries'

const props = defineProps<{ site?: number; builder?: string }>()
const family = defineModel<{ id: number; name: string }>()
const emit = defineEmits<{ signed: [] }>()
const reason = ref('')
const until = ref<string>()
watch(family, () => {
  reason.value = ''
  until.value = undefined
})
const past = (d: Date) => d.getTime() < Date.now() - 864e5
const sign = change(
  async () => {
    const given = { reason: reason.value, until: until.value || undefined }
    if (props.site)
      await data(
        api.POST('/sites/{id}/sign-offs', {
          params: { path: { id: props.site } },
          body: { family: family.value!.id, ...given },
        }),
      )
    else
      await data(
        api.POST('/families/{id}/sign-offs', {
          params: { path: { id: family.value!.id } },
          body: { builder: props.builder!, ...given },
        }),
      )
  },
  ['sites'],
  () => {
    family.value = undefined
    emit('signed')
  },
)
</script>

<template>
  <ElDialog
    :model-value="!!family"
    :title="`Sign off ${family?.name ?? ''}`"
    width="min(32rem, 94vw)"
    append-to-body
    @close="family = undefined"
  >
    <form @submit.prevent="sign.isPending.value || sign.mutate(undefined)">
      <p>
        You take responsibility for including this family although it is not cleared. Your name, the time and your
        reason are recorded and printed in the pack. The sign-off is valid as long as the reasons stay the same.
      </p>
      <label for="why">Reason for the sign-off</label>
      <ElInput id="why" v-model="reason" type="textarea" :rows="3" maxlength="2000" />
      <label class="until"
        ><span>Last day (optional)</span
        ><ElDatePicker v-model="until" type="date" value-format="YYYY-MM-DD" :disabled-date="past" aria-label="Until"
      /></label>
      <div class="row after">
        <ElButton type="primary" native-type="submit" :disabled="!reason.trim()" :loading="sign.isPending.value"
          >Sign off</ElButton
        ><ElButton @click="family = undefined">Cancel</ElButton>
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
</style>
