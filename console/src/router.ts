import { createRouter, createWebHistory } from 'vue-router'

const number = (id: unknown) => Number(id)

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('./pages/Home.vue'), meta: { title: 'Home' } },
    { path: '/guest', component: () => import('./pages/Guest.vue'), meta: { title: 'Fonts' } },
    { path: '/start', component: () => import('./pages/Start.vue'), meta: { title: 'Get started' } },
    { path: '/clients', component: () => import('./pages/Clients.vue'), meta: { title: 'Clients' } },
    {
      path: '/clients/:id(\\d+)',
      component: () => import('./pages/Client.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Client' },
    },
    { path: '/gaps', component: () => import('./pages/Gaps.vue'), meta: { title: 'Missing details' } },
    { path: '/register', component: () => import('./pages/Register.vue'), meta: { title: 'Register' } },
    { path: '/families', component: () => import('./pages/Catalog.vue'), meta: { title: 'Catalog' } },
    {
      path: '/families/:id(\\d+)',
      component: () => import('./pages/Family.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Family' },
    },
    {
      path: '/families/:id(\\d+)/faces/:faceId(\\d+)',
      component: () => import('./pages/Face.vue'),
      props: (r) => ({ id: number(r.params.id), faceId: number(r.params.faceId) }),
      meta: { title: 'Face' },
    },
    { path: '/compare', component: () => import('./pages/Compare.vue'), meta: { title: 'Compare families' } },
    { path: '/imports', component: () => import('./pages/Imports.vue'), meta: { title: 'Imports' } },
    {
      path: '/imports/:id(\\d+)',
      component: () => import('./pages/Import.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Import' },
    },
    { path: '/shortlists', component: () => import('./pages/Shortlists.vue'), meta: { title: 'Shortlists' } },
    {
      path: '/shortlists/:id(\\d+)',
      component: () => import('./pages/Shortlist.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Shortlist' },
    },
    { path: '/licenses', component: () => import('./pages/Licenses.vue'), meta: { title: 'Licenses' } },
    { path: '/sites', component: () => import('./pages/Sites.vue'), meta: { title: 'Sites' } },
    {
      path: '/sites/:id(\\d+)',
      component: () => import('./pages/Site.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Site' },
    },
    {
      path: '/sites/:id(\\d+)/roles',
      component: () => import('./pages/SiteRoles.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Roles' },
    },
    {
      path: '/sites/:id(\\d+)/guide',
      component: () => import('./pages/SiteGuide.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Style guide' },
    },
    {
      path: '/sites/:id(\\d+)/pack',
      component: () => import('./pages/SitePack.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Pack' },
    },
    {
      path: '/sites/:id(\\d+)/inspections',
      component: () => import('./pages/SiteInspections.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Inspection' },
    },
    {
      path: '/inspections/:id(\\d+)',
      component: () => import('./pages/Inspection.vue'),
      props: (r) => ({ id: number(r.params.id) }),
      meta: { title: 'Inspection' },
    },
    { path: '/builders', component: () => import('./pages/Builders.vue'), meta: { title: 'Builders' } },
    {
      path: '/builders/:kind',
      component: () => import('./pages/Builder.vue'),
      props: true,
      meta: { title: 'Builder' },
    },
    { path: '/activity', component: () => import('./pages/Activity.vue'), meta: { title: 'Activity' } },
    { path: '/settings', component: () => import('./pages/Settings.vue'), meta: { title: 'Settings' } },
    { path: '/:rest(.*)', component: () => import('./pages/Nowhere.vue'), meta: { title: 'Page not found' } },
  ],
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title)} · Spare Crate`
})
