<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'

/** A file whose URL is missing. */
defineProps<{ file: string }>()
const emit = defineEmits<{ give: [address: string] }>()
const address = ref('')
</script>

<template>
  <li class="row one">
    <code class="small">{{ file }}</code>
    <form class="row" @submit.prevent="emit('give', address)">
      <ElInput
        v-model="address"
        size="small"
        placeholder="https://"
        :aria-label="`URL of ${file}`"
        class="address"
      /><ElButton size="small" native-type="submit" :disabled="!address.trim()">Save</ElButton>
    </form>
  </li>
</template>

<style scoped>
.one {
  justify-content: space-between;
  padding: 0.3rem 0;
}
.address {
  width: min(26rem, 60vw);
}
code {
  font-family: ui-monospace, 'Liberation Mono', monospace;
}
</style>
