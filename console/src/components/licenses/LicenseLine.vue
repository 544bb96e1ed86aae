<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { LicenseForm, RenewForm } from '../forms'
import { api, base, data, type Schemas } from '../../api/client'
import { change, ending, licenseVersions, me } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { bytes, label, money, some, term, uses, when } from '../../composables/show'
import LimitMeter from './LimitMeter.vue'
import TimeAgo from '../shared/TimeAgo.vue'
import { offerUndo } from '../../composables/undo'

const props = defineProps<{ license: Schemas['License']; mayEdit: boolean; withFamilies?: boolean; open?: boolean }>()
const editing = ref(false)
const copying = ref(false)
const renewing = ref(false)
const unfolded = ref(props.open)
watch(
  () => props.open,
  (now) => (unfolded.value ||= now),
)
const said = computed(() => {
  const names = {
    subset: 'subsetting',
    outlines: 'changing outlines',
    name: 'renaming',
    format: 'converting',
  } as const
  const of = (consent: string) =>
    (Object.keys(names) as (keyof typeof names)[])
      .filter((k) => props.license.changes[k] === consent)
      .map((k) => names[k])
      .join(', ')
  return [of('yes') && `allows ${of('yes')}`, of('no') && `forbids ${of('no')}`].filter(Boolean).join('; ')
})
const { data: versions } = licenseVersions(
  props.license.id,
  computed(() => !!unfolded.value),
)
const { data: end } = ending(
  props.license.id,
  computed(() => !!unfolded.value),
)
const coming = computed(
  () => end.value?.families.flatMap((f) => f.sites.map((s) => ({ family: f.family, ...s }))) ?? [],
)
const holds = computed(() => ({
  seats: props.license.uses.includes('desktop'),
  apps: props.license.uses.includes('app'),
}))
const name = ref('')
const { data: person } = me()
const admin = computed(() => person.value?.role === 'admin')
const trouble = useTrouble()
const approve = change(
  () =>
    data(
      api.POST('/licenses/{id}/approval', {
        params: { path: { id: props.license.id }, header: { 'If-Match': props.license.etag } },
      }),
    ),
  ['licenses', 'families', 'sites'],
  undefined,
  true,
)

const attach = change(
  (file: File) => {
    const body = new FormData()
    body.append('file', file)
    return data(
      api.POST('/licenses/{id}/documents', { params: { path: { id: props.license.id } }, body: body as never }),
    )
  },
  ['licenses', 'families', 'sites'],
)
const give = change(
  (measure: Schemas['Measure']) =>
    data(
      api.POST('/licenses/{id}/allocations', {
        params: { path: { id: props.license.id } },
        body: { measure, name: name.value },
      }),
    ),
  ['licenses', 'families', 'sites'],
  () => (name.value = ''),
)
const back = change(
  (body: Schemas['NewAllocation']) =>
    data(api.POST('/licenses/{id}/allocations', { params: { path: { id: props.license.id } }, body })),
  ['licenses', 'families', 'sites'],
)
const take = change(
  async (p: Schemas['License']['allocations'][number]) => {
    const path = { id: props.license.id, allocationId: p.id }
    await data(api.DELETE('/licenses/{id}/allocations/{allocationId}', { params: { path } }))
    offerUndo(`${p.name} unassigned.`, () => back.mutate({ measure: p.measure, name: p.name }))
  },
  ['licenses', 'families', 'sites'],
)

function picked(e: Event) {
  const input = e.target as HTMLInputElement
  for (const f of input.files ?? []) attach.mutate(f)
  input.value = ''
}
</script>

<template>
  <article class="license">
    <div>
      <strong>{{ license.kind === 'open' ? 'Everybody' : license.grantedTo.name }}</strong>,
      {{
        license.uses.length === uses.length
          ? 'every use'
          : license.uses.map((u) => label(uses, u).toLowerCase()).join('; ')
      }}
      <span v-if="license.state !== 'in-force'" class="ended">{{
        license.state === 'ended' ? 'ended' : 'not begun'
      }}</span>
      <div class="soft small">
        License {{ license.id }}, {{ license.spdx ?? license.kind
        }}<template v-if="license.licensor">, by {{ license.licensor }}</template
        ><template v-if="license.reference">, {{ license.reference }}</template
        >; {{ term(license) }}<template v-if="license.domains.length">; for {{ license.domains.join(', ') }}</template
        ><template v-if="license.faces.length">; {{ some(license.faces.length, 'face') }} only</template
        ><template v-if="said">; {{ said }}</template
        ><template v-if="license.renews">; renews license {{ license.renews }}</template
        ><template v-if="license.renewedBy">; renewed by license {{ license.renewedBy }}</template>
      </div>
      <div v-if="withFamilies" class="small">
        Covers
        <template v-for="(f, i) in license.families" :key="f.id"
          >{{ i ? ', ' : '' }}<RouterLink :to="`/families/${f.id}`">{{ f.name }}</RouterLink></template
        >
      </div>
      <LimitMeter v-for="l in license.limits" :key="l.measure" :limit="l" />
      <div v-if="!license.approvedAt" class="small row">
        <span class="soft"
          >Recorded by {{ license.createdBy }}, not approved by an admin, so it does not override the font's embedding
          permission.</span
        >
        <ElButton v-if="admin" size="small" text @click="trouble.guard(() => approve.mutateAsync(undefined))"
          >Approve</ElButton
        >
      </div>
      <p v-if="trouble.text.value" role="alert" class="ended small">{{ trouble.text.value }}</p>
      <div v-if="license.note" class="small note">{{ license.note }}</div>
      <details class="more" :open="unfolded" @toggle="unfolded = ($event.target as HTMLDetailsElement).open">
        <summary class="small">Usage and history</summary>
        <p v-if="license.price !== undefined && license.currency" class="small">
          {{ money(license.price, license.currency)
          }}<template v-if="license.renewal === 'automatic'">, renews automatically</template
          ><template v-else-if="license.renewal === 'by-hand'">, renewed by hand</template
          ><template v-else-if="license.renewal === 'none'">, no renewal</template>
        </p>
        <template v-if="holds.seats || holds.apps">
          <ul class="list small">
            <li v-for="p in license.allocations" :key="p.id" class="row place">
              <span>{{ p.measure === 'seats' ? 'Seat' : 'App' }}: {{ p.name }}</span
              ><span class="soft">since {{ when(p.since) }}</span
              ><ElButton v-if="mayEdit" size="small" text :aria-label="`Unassign ${p.name}`" @click="take.mutate(p)"
                >Remove</ElButton
              >
            </li>
          </ul>
          <form v-if="mayEdit" class="row" @submit.prevent="give.mutate(holds.seats ? 'seats' : 'apps')">
            <ElInput
              v-model="name"
              size="small"
              class="who"
              placeholder="A person or an app"
              aria-label="A person or an app"
              maxlength="200"
            />
            <ElButton v-if="holds.seats" size="small" :disabled="!name.trim()" @click="give.mutate('seats')"
              >Assign a seat</ElButton
            ><ElButton v-if="holds.apps" size="small" :disabled="!name.trim()" @click="give.mutate('apps')"
              >Add an app</ElButton
            >
          </form>
        </template>
        <p class="sub">Depends on this license</p>
        <p v-if="end && !coming.length" class="small soft">
          Nothing depends on it: its families are not in use, or other licenses cover them too.
        </p>
        <ul class="small">
          <li v-for="c in coming" :key="`${c.family.id} ${c.site.id}`">
            {{ c.family.name }} on <RouterLink :to="`/sites/${c.site.id}`">{{ c.site.name }}</RouterLink><template
              v-if="c.domains.length"
            >
              ({{ c.domains.join(', ') }})</template
            ><template v-if="c.roles.length">, for {{ c.roles.join(', ') }}</template
            ><template v-if="c.pages.length">; from the pages {{ c.pages.join(', ') }}</template
            ><template v-if="c.packs.length"
              >; in {{ some(c.packs.length, 'pack') }}: {{ c.packs.map((p) => p.name).join(', ') }}</template
            >
          </li>
        </ul>
        <p class="sub">Changes</p>
        <ul class="small">
          <li v-for="v in versions ?? []" :key="v.version">
            <TimeAgo :at="v.at" />, {{ v.by }}:
            <template v-if="v.changed.length"
              ><span v-for="(c, i) in v.changed" :key="c.field"
                >{{ i ? '; ' : '' }}{{ c.field }} <template v-if="c.from">was “{{ c.from }}”, </template>is “{{
                  c.to || 'none'
                }}”</span
              ></template
            ><template v-else>{{ v.version === 1 ? 'recorded' : 'saved without a change' }}</template>
          </li>
        </ul>
      </details>
    </div>
    <div class="small documents">
      <span v-if="!license.documents.length" class="alarm">No document</span>
      <span v-for="d in license.documents" :key="d.id"
        ><a :href="`${base}/documents/${d.id}/content?inline=true`" target="_blank">{{ d.name }}</a> ({{
          bytes(d.bytes)
        }})
        <a :href="`${base}/documents/${d.id}/content`" :download="d.name" :aria-label="`Save ${d.name}`">save</a></span
      >
      <label v-if="mayEdit" class="act"
        >Add a document<input type="file" class="hidden" multiple @change="picked"
      /></label>
      <button
        v-if="mayEdit && license.until && !license.renewedBy"
        type="button"
        class="act"
        :aria-label="`Renew license ${license.id}`"
        @click="renewing = true"
      >
        Renew
      </button>
      <button v-if="mayEdit" type="button" class="act" @click="editing = true">Change</button>
      <button v-if="mayEdit" type="button" class="act" @click="copying = true">Duplicate</button>
    </div>
    <LicenseForm v-if="mayEdit" v-model="editing" :license="license" />
    <LicenseForm v-if="mayEdit" v-model="copying" :license="license" copy />
    <RenewForm v-if="mayEdit && license.until && !license.renewedBy" v-model="renewing" :license="license" />
  </article>
</template>

<style scoped>
.license {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 16rem;
  gap: 0.3rem 1.5rem;
  padding: 0.8rem 0;
}
.documents {
  display: grid;
  justify-items: start;
  align-content: start;
  gap: 0.1rem;
  overflow-wrap: anywhere;
}
.note {
  font-style: italic;
}
.ended {
  color: var(--bad);
  font-weight: 600;
  margin-left: 0.5rem;
}
.more {
  margin-top: 0.3rem;
}
.more summary {
  cursor: pointer;
  color: var(--sea);
}
.more ul {
  margin: 0.2rem 0;
  padding-left: 1.1rem;
}
.more ul.list {
  padding: 0;
}
.more p {
  margin: 0.3rem 0;
}
.more .sub {
  font-size: 0.86rem;
  font-weight: 700;
  margin: 0.6rem 0 0.1rem;
}
.place {
  padding: 0.1rem 0;
}
.who {
  width: 14rem;
}
.alarm {
  color: var(--caution);
  font-weight: 600;
}
.act {
  min-height: 24px;
  color: var(--sea);
  background: none;
  border: 0;
  padding: 0;
  font: inherit;
  cursor: pointer;
}
.act:hover {
  text-decoration: underline;
}
.act:focus-within {
  outline: 2px solid var(--rust);
  outline-offset: 2px;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
@media (max-width: 46rem) {
  .license {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
