<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { licenses, me } from '../api/queries'
import LicenseForm from '../parts/LicenseForm.vue'
import LicenseLine from '../parts/LicenseLine.vue'
import Trouble from '../parts/Trouble.vue'

const { data, error, isPending, hasNextPage, fetchNextPage } = licenses()
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const all = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const recording = ref(false)
</script>

<template>
  <div class="page">
    <div class="head"><h1>License register</h1><ElButton v-if="mayEdit" type="primary" @click="recording = true">Record a license</ElButton></div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Reading the register …</p>
    <p v-else-if="!all.length" class="soft">Nothing is recorded yet. A license says who may do what with which families, and keeps the paper that proves it.</p>
    <ul class="list"><li v-for="l in all" :key="l.id"><LicenseLine :license="l" :may-edit="mayEdit" with-families /></li></ul>
    <ElButton v-if="hasNextPage" @click="fetchNextPage()">Older licenses</ElButton>
    <LicenseForm v-model="recording" />
  </div>
</template>
