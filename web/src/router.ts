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
  routes: [
    { path: '/', redirect: '/today' },
    { path: '/today', component: () => import('./rooms/today/TodayRoom.vue') },
    { path: '/stock', component: () => import('./rooms/stock/StockRoom.vue') },
    { path: '/stock/add', component: () => import('./rooms/stock/EntrySheet.vue') },
    { path: '/stock/triage', component: () => import('./rooms/stock/TriagePage.vue') },
    { path: '/stock/stocktake', component: () => import('./rooms/stock/StocktakeList.vue') },
    { path: '/stock/stocktake/:id(\\d+)', component: () => import('./rooms/stock/StocktakePage.vue') },
    { path: '/stock/:id(\\d+)', component: () => import('./rooms/stock/LotPage.vue') },
    { path: '/storage', component: () => import('./rooms/storage/StorageRoom.vue') },
    { path: '/storage/round', component: () => import('./rooms/storage/RoundPage.vue') },
    { path: '/storage/:id(\\d+)', component: () => import('./rooms/storage/ContainerPage.vue') },
    { path: '/tests', component: () => import('./rooms/trials/TestsRoom.vue') },
    { path: '/needs', component: () => import('./rooms/needs/NeedsRoom.vue') },
    { path: '/growing', component: () => import('./rooms/growing/GrowingRoom.vue') },
    { path: '/saving', component: () => import('./rooms/saving/SavingRoom.vue') },
    { path: '/papers/labels', component: () => import('./rooms/papers/LabelsPage.vue') },
    { path: '/papers/parcels', component: () => import('./rooms/papers/ParcelsPage.vue') },
    { path: '/papers', component: () => import('./rooms/papers/PapersRoom.vue') },
    { path: '/:rest(.*)*', redirect: '/today' },
  ],
})
