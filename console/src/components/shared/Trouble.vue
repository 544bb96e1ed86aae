<script setup lang="ts">
import { ElAlert } from 'element-plus'
import { message } from '../../api/client'

defineProps<{ error: unknown }>()
</script>

<template>
  <div role="alert"><ElAlert type="error" :closable="false" :title="message(error)" /></div>
</template>
