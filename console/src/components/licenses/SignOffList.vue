<script setup lang="ts">
import { ElButton } from 'element-plus'
import { api, data, type Schemas } from '../../api/client'
import { change, signOffs } from '../../api/queries'
import { some } from '../../composables/show'
import VerdictTag from '../shared/VerdictTag.vue'
import TimeAgo from '../shared/TimeAgo.vue'
import { sure } from '../../composables/ask'

/** What people took responsibility for, newest first. */
defineProps<{ role?: string }>()
const { data: list } = signOffs()
const revoke = change(
  (id: number) => data(api.DELETE('/sign-offs/{id}', { params: { path: { id } } })),
  ['sign-offs', 'sites'],
)
const target = (o: Schemas['SignOff']) => o.site?.name ?? `packs for ${o.builder}`
async function ask(o: Schemas['SignOff']) {
  const says =
    `${o.family.name} gets into no pack for ${target(o)} until it is cleared or signed off again. ` +
    'The sign-off stays in the history.'
  if (await sure('Revoke this sign-off?', says, 'Revoke')) revoke.mutate(o.id)
}
const standings = {
  holds: 'holds',
  ended: 'ended',
  revoked: 'revoked',
  overtaken: 'no longer holds: the reasons are others now',
}
</script>

<template>
  <section v-if="list?.items.length">
    <h2>
      Sign-offs <span class="soft small count"> {{ some(list.holding, 'holds', 'hold') }}</span>
    </h2>
    <ul class="list">
      <li v-for="o in list.items" :key="o.id" class="one">
        <div>
          <span class="row"
            ><VerdictTag :state="o.state" /><RouterLink
              :to="o.site ? `/sites/${o.site.id}` : `/families/${o.family.id}`"
              >{{ o.family.name }} {{ o.site ? 'on' : 'in' }} {{ target(o) }}</RouterLink
            ><span class="small" :class="o.standing === 'holds' ? 'holds' : 'soft'">{{
              standings[o.standing]
            }}</span></span
          >
          <p class="small">
            “{{ o.reason }}”
            <span class="soft"
              >{{ o.by }}, <TimeAgo :at="o.at" /><template v-if="o.until">; until {{ o.until }}</template
              ><template v-if="o.revokedBy">; revoked by {{ o.revokedBy }}</template></span
            >
          </p>
        </div>
        <ElButton v-if="role !== 'viewer' && o.standing !== 'revoked'" size="small" @click="ask(o)">Revoke</ElButton>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.one {
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: 1rem;
  padding: 0.6rem 0;
}
.one p {
  margin: 0.2rem 0 0;
}
.count {
  margin-left: 0.6rem;
  font-weight: 400;
}
.holds {
  color: var(--good);
  font-weight: 600;
}
</style>
