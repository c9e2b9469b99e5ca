import { createRouter, createWebHistory } from 'vue-router'

export const ROOMS = [
  { path: '/today', name: 'Today', for: 'the fortnight’s jobs' },
  { path: '/stock', name: 'Stock', for: 'every packet and jar' },
  { path: '/storage', name: 'Storage', for: 'places, dials, ageing' },
  { path: '/tests', name: 'Tests', for: 'what deserves one, and counts' },
  { path: '/needs', name: 'Needs', for: 'from the plate back to the seed' },
  { path: '/growing', name: 'Growing', for: 'sown, due, years ahead' },
  { path: '/saving', name: 'Saving', for: 'lines to keep' },
  { path: '/papers', name: 'Papers', for: 'in, out, settings, history' },
] as const

export const router = createRouter({
  history: createWebHistory(),
  // Back comes to where one was; a filter or a sheet in the address moves nothing
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? false : { top: 0 }),
  routes: [
    { path: '/', redirect: '/today' },
    { path: '/today', meta: { title: 'Today' }, component: () => import('./rooms/today/TodayRoom.vue') },
    { path: '/stock', meta: { title: 'Stock' }, component: () => import('./rooms/stock/StockRoom.vue') },
    {
      path: '/stock/add',
      meta: { title: 'Add seeds' },
      component: () => import('./rooms/stock/EntrySheet.vue'),
    },
    {
      path: '/stock/triage',
      meta: { title: 'Triage' },
      component: () => import('./rooms/stock/TriagePage.vue'),
    },
    {
      path: '/stock/stocktake',
      meta: { title: 'Stocktake' },
      component: () => import('./rooms/stock/StocktakeList.vue'),
    },
    {
      path: '/stock/stocktake/:id(\\d+)',
      meta: { title: 'Stocktake' },
      component: () => import('./rooms/stock/StocktakePage.vue'),
    },
    {
      path: '/stock/:id(\\d+)',
      meta: { title: 'A packet' },
      component: () => import('./rooms/stock/LotPage.vue'),
    },
    {
      path: '/storage',
      meta: { title: 'Storage' },
      component: () => import('./rooms/storage/StorageRoom.vue'),
    },
    {
      path: '/storage/round',
      meta: { title: 'The round' },
      component: () => import('./rooms/storage/RoundPage.vue'),
    },
    {
      path: '/storage/:id(\\d+)',
      meta: { title: 'A container' },
      component: () => import('./rooms/storage/ContainerPage.vue'),
    },
    { path: '/tests', meta: { title: 'Tests' }, component: () => import('./rooms/trials/TestsRoom.vue') },
    { path: '/needs', meta: { title: 'Needs' }, component: () => import('./rooms/needs/NeedsRoom.vue') },
    {
      path: '/growing',
      meta: { title: 'Growing' },
      component: () => import('./rooms/growing/GrowingRoom.vue'),
    },
    { path: '/saving', meta: { title: 'Saving' }, component: () => import('./rooms/saving/SavingRoom.vue') },
    {
      path: '/papers/labels',
      meta: { title: 'Labels' },
      component: () => import('./rooms/papers/LabelsPage.vue'),
    },
    {
      path: '/papers/parcels',
      meta: { title: 'Giving away' },
      component: () => import('./rooms/papers/ParcelsPage.vue'),
    },
    { path: '/papers', meta: { title: 'Papers' }, component: () => import('./rooms/papers/PapersRoom.vue') },
    { path: '/:rest(.*)*', meta: { title: 'No such page' }, component: () => import('./parts/NoPage.vue') },
  ],
})
