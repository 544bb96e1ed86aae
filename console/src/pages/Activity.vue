<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { activity } from '../api/queries'
import JobsPanel from '../components/shared/JobsPanel.vue'
import Trouble from '../components/shared/Trouble.vue'
import TimeAgo from '../components/shared/TimeAgo.vue'

const { data, error, hasNextPage, fetchNextPage } = activity()
const all = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
</script>

<template>
  <div class="page">
    <div class="head"><h1>Activity</h1></div>
    <JobsPanel />
    <Trouble v-if="error" :error="error" />
    <ul class="list">
      <li v-for="a in all" :key="a.id" class="line">
        <TimeAgo class="soft small" :at="a.at" />
        <div>
          <strong>{{ a.person }}</strong> {{ a.action }}: {{ a.subject }}
          <div v-if="a.detail" class="soft small detail">{{ a.detail }}</div>
        </div>
      </li>
    </ul>
    <ElButton v-if="hasNextPage" @click="fetchNextPage()">Earlier</ElButton>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 11rem minmax(0, 1fr);
  gap: 0.2rem 1rem;
  padding: 0.5rem 0;
}
.detail {
  overflow-wrap: anywhere;
}
@media (max-width: 40rem) {
  .line {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
