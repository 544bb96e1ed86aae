<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import { api, data } from '../../api/client'
import { change, sitePages } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import TimeAgo from '../shared/TimeAgo.vue'
import { offerUndo } from '../../composables/undo'

/** The pages of a site as a list to tick, where something has to be put on each. */
const props = defineProps<{ id: number; mayEdit: boolean }>()
const { data: known } = sitePages(toRef(props, 'id'))
const done = computed(() => known.value?.items.filter((p) => p.done && !p.behind).length ?? 0)
const text = ref('')
const trouble = useTrouble()
const path = (pageId: number) => ({ params: { path: { id: props.id, pageId } } })
const add = change(
  () =>
    data(
      api.POST('/sites/{id}/pages', {
        params: { path: { id: props.id } },
        body: {
          pages: text.value
            .split(/\s+/)
            .filter(Boolean)
            .map((url) => ({ url })),
        },
      }),
    ),
  ['sites'],
  () => (text.value = ''),
  true,
)
const tick = change(
  (p: { id: number; done: boolean }) =>
    data(api.PUT('/sites/{id}/pages/{pageId}', { ...path(p.id), body: { done: p.done } })),
  ['sites'],
)
const back = change(
  (p: { url: string; title: string }) =>
    data(api.POST('/sites/{id}/pages', { params: { path: { id: props.id } }, body: { pages: [p] } })),
  ['sites'],
)
const drop = change(
  async (p: { id: number; url: string; title: string }) => {
    await data(api.DELETE('/sites/{id}/pages/{pageId}', path(p.id)))
    offerUndo(`${p.url} removed.`, () => back.mutate({ url: p.url, title: p.title }))
  },
  ['sites'],
)
</script>

<template>
  <section v-if="known && (known.eachPage || known.items.length)" aria-label="Pages">
    <h2>
      Pages <span v-if="known.items.length" class="soft small">{{ done }} of {{ known.items.length }} done</span>
    </h2>
    <p v-if="known.eachPage" class="soft small">
      The platform needs the block on every page. Check off finished pages.
    </p>
    <ul class="list">
      <li v-for="p in known.items" :key="p.id" class="row one">
        <label class="row"
          ><input
            type="checkbox"
            :checked="p.done && !p.behind"
            :disabled="!mayEdit"
            @change="tick.mutate({ id: p.id, done: ($event.target as HTMLInputElement).checked })"
          /><span
            >{{ p.url }}<span v-if="p.title" class="soft"> {{ p.title }}</span></span
          ></label
        >
        <span class="soft small"
          ><template v-if="p.done">{{ p.doneBy }}, <TimeAgo :at="p.doneAt!" /></template
          ><strong v-if="p.behind" class="again"> {{ p.behind }}</strong></span
        >
        <ElButton v-if="mayEdit" size="small" text :aria-label="`Remove ${p.url} from the list`" @click="drop.mutate(p)"
          >Remove</ElButton
        >
      </li>
    </ul>
    <form v-if="mayEdit" class="row" @submit.prevent="trouble.guard(() => add.mutateAsync(undefined))">
      <ElInput v-model="text" placeholder="/prices /contact" aria-label="Page URLs" class="pages" /><ElButton
        native-type="submit"
        :disabled="!text.trim()"
        >Add pages</ElButton
      >
    </form>
    <p v-if="trouble.text.value" role="alert" class="trouble small">{{ trouble.text.value }}</p>
  </section>
</template>

<style scoped>
.one {
  justify-content: space-between;
  padding: 0.3rem 0;
}
.one label {
  cursor: pointer;
  min-width: 14rem;
}
input[type='checkbox'] {
  width: 1.1rem;
  height: 1.1rem;
  accent-color: var(--sea);
}
.pages {
  width: min(24rem, 100%);
}
.again {
  color: var(--caution);
}
.trouble {
  color: var(--bad);
}
form {
  margin-top: 0.6rem;
}
h2 .small {
  font-weight: 400;
}
</style>
