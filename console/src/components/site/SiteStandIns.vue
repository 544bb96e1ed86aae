<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive } from 'vue'
import type { Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { choosing } from '../../state/form'
import { place, placed, weights } from '../../state/roles'
import FamilyPicker from '../shared/FamilyPicker.vue'

/** Font names of the design that are swapped for families. */
const props = defineProps<{ site: Schemas['Site']; mayEdit: boolean }>()
const form = reactive({ name: '', family: undefined as number | undefined, weight: 400 })
const set = change(
  (standIns: Schemas['StandIn'][]) => place(props.site, { ...placed(props.site), standIns }),
  ['sites', 'families'],
  () => (form.name = ''),
)
const add = () =>
  form.family &&
  set.mutate([...props.site.standIns, { name: form.name, family: form.family, weight: form.weight, slope: 'normal' }])
const familyName = (id: number) => props.site.families.find((f) => f.family.id === id)?.family.name ?? `family ${id}`
</script>

<template>
  <h2>Stand-ins</h2>
  <p class="soft small">
    A name the design has because the real font could not be installed there. On the delivered page every text in that
    name is swapped, also where nobody meant it.
  </p>
  <ul class="list">
    <li v-for="s in site.standIns" :key="s.name" class="row one">
      <span
        ><strong>{{ s.name }}</strong> becomes {{ familyName(s.family) }}, weight {{ s.weight }}</span
      ><ElButton
        v-if="mayEdit"
        size="small"
        text
        :aria-label="`Swap ${s.name} no more`"
        @click="set.mutate(site.standIns.filter((o) => o.name !== s.name))"
        >Swap no more</ElButton
      >
    </li>
  </ul>
  <form v-if="mayEdit" class="row" @submit.prevent="add" @keydown.enter="choosing">
    <ElInput
      v-model="form.name"
      placeholder="Name in the design"
      aria-label="Name in the design"
      class="name"
      maxlength="200"
    />
    <FamilyPicker
      v-model="form.family"
      placeholder="Becomes"
      label="Family it becomes"
      :client="site.client.name"
      :known="site.families.map((f) => f.family)"
      class="family"
    />
    <ElSelect v-model="form.weight" aria-label="Weight of the stand-in" class="weight"
      ><ElOption v-for="w in weights" :key="w.value" :value="w.value" :label="w.label"
    /></ElSelect>
    <ElButton native-type="submit" :disabled="!form.name.trim() || !form.family">Swap</ElButton>
  </form>
</template>

<style scoped>
.one {
  justify-content: space-between;
  padding: 0.4rem 0;
}
.name {
  width: min(14rem, 100%);
}
.family {
  width: min(18rem, 100%);
}
.weight {
  width: 10rem;
}
form {
  margin-top: 0.6rem;
}
</style>
