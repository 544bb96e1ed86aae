<script setup lang="ts">
import { ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, ref } from 'vue'
import { pageWords, type Look } from '../../composables/roledraft'
import RoleText from './RoleText.vue'

/** A typical page in the client's words, set as the roles are chosen now: at the width of a desktop or a phone. */
const props = defineProps<{ look: (role: string) => Look | undefined; sample: string; client: string }>()
const width = ref<'desktop' | 'phone'>('desktop')
const words = computed(() => pageWords(props.sample))
const big = computed(() => width.value === 'desktop')
const sizes = computed(() => ({
  title: big.value ? 38 : 30,
  second: big.value ? 26 : 22,
  text: big.value ? 17 : 16,
  small: 14,
}))
/** A heading without a font of its own looks like the text around it. */
const heading = (n: number) => props.look(`heading-${n}`) ?? props.look('body')
const nav = ['Start', 'Visit', 'News', 'Contact']
</script>

<template>
  <section class="preview" aria-label="Preview of a page">
    <div class="row bar">
      <h3>Preview</h3>
      <ElRadioGroup v-model="width" size="small" aria-label="Width of the preview">
        <ElRadioButton value="desktop">Desktop</ElRadioButton>
        <ElRadioButton value="phone">Phone</ElRadioButton>
      </ElRadioGroup>
    </div>
    <div :key="width" class="canvas" :class="width">
      <header>
        <RoleText :look="look('navigation') ?? look('body')" :size="18" :text="client" short />
        <div class="nav">
          <RoleText
            v-for="n in nav"
            :key="n"
            :look="look('navigation') ?? look('body')"
            :size="sizes.small + 1"
            :text="n"
            short
          />
        </div>
      </header>
      <RoleText data-role="heading-1" :look="heading(1)" :size="sizes.title" :text="words.title" />
      <RoleText data-role="body" :look="look('body')" :size="sizes.text" :text="words.running" />
      <div class="link"><RoleText :look="look('links')" :size="sizes.text" text="Read more" short /></div>
      <RoleText data-role="heading-2" :look="heading(2)" :size="sizes.second" :text="words.second" />
      <ul>
        <li v-for="t in ['0123456789', words.title]" :key="t">
          <RoleText :look="look('lists')" :size="sizes.text" :text="t" />
        </li>
      </ul>
      <blockquote><RoleText :look="look('quotes')" :size="sizes.text + 2" :text="`“${words.second}”`" /></blockquote>
      <div class="form">
        <RoleText :look="look('captions')" :size="sizes.small" text="Your e-mail address" short />
        <div class="field"><RoleText :look="look('body')" :size="sizes.text" text="name@mail.example" short /></div>
        <div class="button">
          <RoleText :look="look('buttons') ?? look('body')" :size="sizes.text" text="Send" short />
        </div>
      </div>
      <RoleText v-if="look('code')" :look="look('code')" :size="15" text="code { 0 1 l I }" />
    </div>
    <p class="soft small">Sizes are typical ones; the site's own styles decide them.</p>
  </section>
</template>

<style scoped>
.bar {
  justify-content: space-between;
  margin-bottom: 0.5rem;
}
.bar h3 {
  margin: 0;
}
.canvas {
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 1.4rem 1.6rem;
  display: grid;
  gap: 0.7rem;
  grid-template-columns: minmax(0, 1fr);
  overflow: hidden;
}
.canvas.phone {
  width: min(22.5rem, 100%);
  box-sizing: border-box;
  padding: 1rem;
  margin: 0 auto;
  border-radius: 1.2rem;
}
header {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0.3rem 1.2rem;
  border-bottom: 1px solid var(--rule);
  padding-bottom: 0.6rem;
}
.nav {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1rem;
}
.link {
  width: fit-content;
  border-bottom: 1.5px solid currentcolor;
}
ul {
  margin: 0;
  padding-left: 1.2rem;
}
blockquote {
  margin: 0;
  padding-left: 1rem;
  border-left: 3px solid var(--rule);
}
.form {
  display: grid;
  gap: 0.3rem;
  max-width: 20rem;
}
.field {
  border: 1px solid var(--el-border-color);
  padding: 0.3rem 0.6rem;
  border-radius: 3px;
}
.button {
  justify-self: start;
  border: 1.5px solid var(--ink);
  border-radius: 3px;
  padding: 0.3rem 1.1rem;
}
</style>
