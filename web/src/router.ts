import { createRouter, createWebHistory, type RouteComponent, type RouteRecordRaw } from 'vue-router'

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

const page = (path: string, title: string, component: () => Promise<RouteComponent>): RouteRecordRaw => ({
  path,
  meta: { title },
  component,
})

export const router = createRouter({
  history: createWebHistory(),
  // Back comes to where one was; a filter or a sheet in the address moves nothing
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? false : { top: 0 }),
  routes: [
    { path: '/', redirect: '/today' },
    page('/today', 'Today', () => import('./rooms/today/TodayRoom.vue')),
    page('/stock', 'Stock', () => import('./rooms/stock/StockRoom.vue')),
    page('/stock/add', 'Add seeds', () => import('./rooms/stock/EntrySheet.vue')),
    page('/stock/triage', 'Triage', () => import('./rooms/stock/TriagePage.vue')),
    page('/stock/stocktake', 'Stocktake', () => import('./rooms/stock/StocktakeList.vue')),
    page('/stock/stocktake/:id(\\d+)', 'Stocktake', () => import('./rooms/stock/StocktakePage.vue')),
    page('/stock/:id(\\d+)', 'A packet', () => import('./rooms/stock/LotPage.vue')),
    page('/storage', 'Storage', () => import('./rooms/storage/StorageRoom.vue')),
    page('/storage/round', 'The round', () => import('./rooms/storage/RoundPage.vue')),
    page('/storage/:id(\\d+)', 'A container', () => import('./rooms/storage/ContainerPage.vue')),
    page('/tests', 'Tests', () => import('./rooms/trials/TestsRoom.vue')),
    page('/tests/right', 'Was it right?', () => import('./rooms/trials/LookingBackPage.vue')),
    page('/needs', 'Needs', () => import('./rooms/needs/NeedsRoom.vue')),
    page('/needs/pantry', 'The pantry', () => import('./rooms/needs/PantryPage.vue')),
    page('/needs/basket', 'The basket', () => import('./rooms/needs/BasketPage.vue')),
    page('/needs/fetch', 'Fetch the seed', () => import('./rooms/needs/PullPage.vue')),
    page('/needs/stars', 'Grown this year', () => import('./rooms/needs/StarsPage.vue')),
    page('/growing', 'Growing', () => import('./rooms/growing/GrowingRoom.vue')),
    page('/growing/calendar', 'The sowing calendar', () => import('./rooms/growing/CalendarPage.vue')),
    page('/saving', 'Saving', () => import('./rooms/saving/SavingRoom.vue')),
    page('/papers/labels', 'Labels', () => import('./rooms/papers/LabelsPage.vue')),
    page('/papers/parcels', 'Giving away', () => import('./rooms/papers/ParcelsPage.vue')),
    page('/papers', 'Papers', () => import('./rooms/papers/PapersRoom.vue')),
    page('/:rest(.*)*', 'No such page', () => import('./parts/NoPage.vue')),
  ],
})
