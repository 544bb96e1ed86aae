<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { base } from '../api/client'
import { clients, register } from '../api/queries'
import Trouble from '../components/shared/Trouble.vue'
import VerdictTag from '../components/shared/VerdictTag.vue'
import { label, origins, some } from '../composables/show'

const client = ref<number>()
const { data: r, error, isPending } = register(client)
const { data: known } = clients()
const asked = computed(() => (client.value ? `client=${client.value}` : ''))
const file = (format: string) => `${base}/register/file?format=${format}${asked.value ? `&${asked.value}` : ''}`
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <p class="soft small crumb"><RouterLink to="/licenses">Licenses</RouterLink></p>
        <h1>Register</h1>
      </div>
      <div class="row">
        <ElSelect v-model="client" clearable placeholder="All clients" aria-label="Client" class="client"
          ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name"
        /></ElSelect>
        <a :href="`/register/print?${asked}`" target="_blank">Print</a><a :href="file('xlsx')">Export XLSX</a
        ><a :href="file('csv')">CSV</a>
      </div>
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <p v-else-if="!r?.items.length" class="soft">The register is empty.</p>
    <div v-else class="wide" tabindex="0" role="region" aria-label="Register">
      <table class="plain">
        <thead>
          <tr>
            <th>Family</th>
            <th>Verdict</th>
            <th>Licensed</th>
            <th>Used on</th>
            <th>Evidence</th>
            <th>Missing</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in r.items" :key="i.family.id">
            <td class="family">
              <RouterLink :to="`/families/${i.family.id}`"
                ><strong>{{ i.family.name }}</strong></RouterLink
              >
              <div class="soft small">{{ i.client.name }}</div>
              <div class="soft small">{{ label(origins, i.origin) }}, {{ some(i.faces, 'face') }}</div>
            </td>
            <td><VerdictTag :state="i.verdict" /></td>
            <td
              v-for="(part, n) in [i.licenses, i.sites, i.evidence, i.missing]"
              :key="n"
              class="small"
              :class="{ missing: n === 3 }"
            >
              <div v-for="line in part" :key="line" class="one">{{ line }}</div>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.client {
  width: 14rem;
}
.family {
  min-width: 9rem;
}
.one + .one {
  margin-top: 0.4rem;
}
td.small {
  min-width: 10rem;
  overflow-wrap: anywhere;
}
.missing {
  color: var(--bad);
}
</style>
