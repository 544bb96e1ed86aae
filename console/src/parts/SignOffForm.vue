<script setup lang="ts">
import { ElButton, ElDialog, ElInput } from 'element-plus'
import { ref, watch } from 'vue'
import { api, data } from '../api/client'
import { change } from '../api/queries'

const props = defineProps<{ site: number }>()
const family = defineModel<{ id: number; name: string }>()
const reason = ref('')
watch(family, () => (reason.value = ''))
const sign = change(
  () => data(api.POST('/sites/{id}/sign-offs', { params: { path: { id: props.site } }, body: { family: family.value!.id, reason: reason.value } })),
  ['sites'],
  () => (family.value = undefined),
)
</script>

<template>
  <ElDialog :model-value="!!family" :title="`Sign off ${family?.name ?? ''}`" width="min(32rem, 94vw)" append-to-body @close="family = undefined">
    <form @submit.prevent="sign.mutate(undefined)">
      <p>You take responsibility for this family going out although its verdict is not clear. Your name, the time and your reason are kept and printed in the pack. It holds as long as the reasons stay what they are now.</p>
      <label for="why">Why may it go out?</label>
      <ElInput id="why" v-model="reason" type="textarea" :rows="3" maxlength="2000" />
      <div class="row after"><ElButton type="primary" native-type="submit" :disabled="!reason.trim()">Sign off</ElButton><ElButton @click="family = undefined">Leave</ElButton></div>
    </form>
  </ElDialog>
</template>

<style scoped>
.after { margin-top: 1rem; }
</style>
