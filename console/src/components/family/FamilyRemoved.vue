<script setup lang="ts">
import { ElButton } from 'element-plus'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { when } from '../../composables/show'
import TimeAgo from '../shared/TimeAgo.vue'

/** Faces of which all files were removed, for as long as they can be brought back. */
defineProps<{ faces: Schemas['RemovedFace'][]; mayEdit: boolean }>()
const back = change(
  (face: Schemas['RemovedFace']) =>
    Promise.all(
      face.files.map((f) =>
        data(api.POST('/faces/{id}/files/{file}/restore', { params: { path: { id: face.id, file: f.id } } })),
      ),
    ),
  ['families', 'sites'],
)
</script>

<template>
  <section class="sheet small" aria-label="Removed faces">
    <p v-for="f in faces" :key="f.id" class="row">
      <strong>{{ f.style }}</strong>
      <span class="soft"
        >removed by {{ f.files[0]!.removedBy }}, <TimeAgo :at="f.files[0]!.removedAt!" />; deleted on
        {{ when(f.files[0]!.goneAt!) }}</span
      >
      <ElButton v-if="mayEdit" link type="primary" :aria-label="`Restore ${f.style}`" @click="back.mutate(f)"
        >Restore</ElButton
      >
    </p>
  </section>
</template>
