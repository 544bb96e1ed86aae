import { defineAsyncComponent, defineComponent, h, type Component } from 'vue'

/** A dialog that is loaded and rendered when it is first opened, and kept from then on. */
function whenOpened<Form extends Component>(load: () => Promise<{ default: Form }>): Form {
  const form = defineAsyncComponent(load)
  const wrapped = defineComponent({
    inheritAttrs: false,
    setup(_, { attrs }) {
      let opened = false
      return () => ((opened ||= !!attrs.modelValue) ? h(form, attrs) : null)
    },
  })
  return wrapped as unknown as Form
}

export const AcceptForm = whenOpened(() => import('./inspection/AcceptForm.vue'))
export const ClientPack = whenOpened(() => import('./site/ClientPack.vue'))
export const LicenseForm = whenOpened(() => import('./licenses/LicenseForm.vue'))
export const PersonForm = whenOpened(() => import('./access/PersonForm.vue'))
export const RenewForm = whenOpened(() => import('./licenses/RenewForm.vue'))
export const SignOffForm = whenOpened(() => import('./licenses/SignOffForm.vue'))
export const SiteForm = whenOpened(() => import('./site/SiteForm.vue'))
