<script setup lang="ts">
import { Alert, ConfigProvider } from 'ant-design-vue'
import { onKeyStroke } from '@vueuse/core'
import { computed, provide, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { actAs, servedFrom } from './api/client'
import { lastAct, useCounts, useHome, useUndo } from './api/queries'
import FindBox from './parts/FindBox.vue'
import UndoBar from './parts/UndoBar.vue'
import YearRibbon from './parts/YearRibbon.vue'
import { antTokens, dark, toggleTheme } from './parts/theme'
import { daysIn } from './parts/words'
import { ROOMS } from './router'

const route = useRoute()
const router = useRouter()
const home = useHome()
const { undo } = useUndo()
const find = ref<InstanceType<typeof FindBox> | null>(null)
const help = ref(false)
/** Rooms watch this: it changes when "new in this room" is asked for. */
const newAsked = ref(0)
provide('newAsked', newAsked)

const waiting = useCounts()
const counts = computed<Record<string, number | undefined>>(() => {
  const n = waiting.data.value
  return { Today: n?.today, Storage: n?.storage, Tests: n?.tests, Needs: n?.needs }
})
const inRoom = (path: string) => route.path === path || route.path.startsWith(`${path}/`)
const who = ref<number | null>(null)
watch(
  () => home.data.value,
  (now) => {
    if (!now) return
    daysIn(now.household.tz)
    who.value = servedFrom(now.file_id, now.people)
  },
  { immediate: true },
)
watch(who, (id) => actAs(id))
const warnings = computed(() => {
  const now = home.data.value
  if (!now) return []
  const notes = now.notes.map((note) => `Set right in this file: ${note}`)
  return now.trouble
    ? [`${now.trouble}. What you see is right; what you do cannot be kept until then.`, ...notes]
    : notes
})

const typing = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement &&
  (['INPUT', 'TEXTAREA', 'SELECT'].includes(e.target.tagName) || e.target.isContentEditable)

onKeyStroke(true, (e) => {
  if (e.ctrlKey || e.metaKey || e.altKey || typing(e)) return
  const room = ROOMS[Number(e.key) - 1]
  if (e.key >= '1' && e.key <= '8' && room) router.push(room.path)
  else if (e.key === '/') find.value?.show()
  else if (e.key === 'n') newAsked.value += 1
  else if (e.key === '?') help.value = !help.value
  else if (e.key === 'u' && lastAct.value) undo(lastAct.value.id, lastAct.value.words)
  else if (e.key === 'Escape') {
    if (help.value) help.value = false
    else if (route.path.split('/').length > 2) router.push(`/${route.path.split('/')[1]}`)
    return
  } else return
  e.preventDefault()
})
</script>

<template>
  <ConfigProvider :theme="antTokens">
    <a class="skip" href="#page">Skip to the page</a>
    <header class="top">
      <RouterLink to="/today" class="mark">Brisk Larder</RouterLink>
      <span class="house soft">
        {{ home.data.value?.household.name }}
        <template v-if="home.data.value">
          · year {{ home.data.value.year }}/{{ String(home.data.value.year + 1).slice(2) }}</template
        >
      </span>
      <span class="spring" />
      <FindBox ref="find" />
      <select v-if="home.data.value?.people.length" v-model="who" class="plain who" aria-label="Who is here">
        <option :value="null">somebody</option>
        <option v-for="p in home.data.value.people" :key="p.id ?? 0" :value="p.id">{{ p.name }}</option>
      </select>
      <button class="btn plain" type="button" @click="toggleTheme">{{ dark ? 'Light' : 'Dark' }}</button>
      <button class="btn plain keys" type="button" title="all shortcuts (?)" @click="help = !help">
        Keys <kbd>?</kbd>
      </button>
    </header>
    <YearRibbon />
    <div class="main">
      <nav class="tabs" aria-label="Rooms">
        <RouterLink
          v-for="(room, i) in ROOMS"
          :key="room.path"
          :to="room.path"
          class="tab"
          :class="{ on: inRoom(room.path) }"
          :aria-current="inRoom(room.path) ? 'page' : undefined"
          :title="`${room.for} (${i + 1})`"
        >
          {{ room.name }}
          <b v-if="counts[room.name]" :aria-label="`${counts[room.name]} open`">{{ counts[room.name] }}</b>
        </RouterLink>
      </nav>
      <main id="page" class="page" tabindex="-1">
        <Alert
          v-for="words in warnings"
          :key="words"
          class="warning"
          type="warning"
          show-icon
          closable
          :message="words"
        />
        <RouterView />
      </main>
    </div>
    <UndoBar />
    <div v-if="help" class="veil" @click.self="help = false">
      <div class="card help" role="dialog" aria-modal="true" aria-label="Shortcuts">
        <h2>Keys</h2>
        <table class="plain">
          <tbody>
            <tr v-for="(room, i) in ROOMS" :key="room.path">
              <td>
                <kbd>{{ i + 1 }}</kbd>
              </td>
              <td>{{ room.name }}: {{ room.for }}</td>
            </tr>
            <tr>
              <td><kbd>/</kbd></td>
              <td>find anything</td>
            </tr>
            <tr>
              <td><kbd>n</kbd></td>
              <td>new in this room</td>
            </tr>
            <tr>
              <td><kbd>x</kbd></td>
              <td>choose the lot under the cursor, in Stock</td>
            </tr>
            <tr>
              <td><kbd>u</kbd></td>
              <td>take the last act back</td>
            </tr>
            <tr>
              <td><kbd>Esc</kbd></td>
              <td>back, or close what is open</td>
            </tr>
          </tbody>
        </table>
        <button class="btn" type="button" @click="help = false">Close</button>
      </div>
    </div>
  </ConfigProvider>
</template>

<style scoped>
.warning {
  margin-bottom: 10px;
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 2000;
  background: var(--page);
  padding: 6px;
}
.top {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 9px 22px 7px;
}
.mark {
  font: 700 23px var(--serif);
  text-decoration: none;
  white-space: nowrap;
}
.house {
  white-space: nowrap;
}
.spring {
  flex: 1;
}
.main {
  display: flex;
  min-height: calc(100vh - 142px);
}
.tabs {
  width: 122px;
  flex: none;
  padding-top: 12px;
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.tab {
  min-height: 44px;
  padding: 11px 10px 0 22px;
  color: var(--soft);
  font-size: 16px;
  text-decoration: none;
  border: 1px solid transparent;
  border-right: 0;
}
.tab b {
  float: right;
  font: 600 13px/22px var(--sans);
  color: var(--act);
}
.tab:hover {
  color: var(--ink);
}
.tab.on {
  background: var(--page);
  color: var(--ink);
  font-weight: 700;
  border-color: var(--hair);
  border-radius: 7px 0 0 7px;
  margin: 0 -1px 0 8px;
  padding-left: 13px;
  z-index: 2;
}
.page {
  flex: 1;
  min-width: 0;
  background: var(--page);
  border: 1px solid var(--hair);
  border-right: 0;
  border-radius: 7px 0 0 0;
  padding: 14px 22px 90px;
}
.page:focus-visible {
  outline: none;
}
.veil {
  position: fixed;
  inset: 0;
  background: rgb(20 20 20 / 35%);
  z-index: 1200;
  padding: 8vh 12px;
}
.help {
  max-width: 460px;
  margin: auto;
}
@media (max-width: 760px) {
  .top {
    padding: 8px 12px;
    flex-wrap: wrap;
    gap: 8px;
  }
  .house,
  .keys {
    display: none;
  }
  .top :deep(.find) {
    order: 5;
    flex: 1 0 100%;
  }
  .main {
    display: block;
  }
  .tabs {
    position: fixed;
    z-index: 1000;
    bottom: 0;
    left: 0;
    right: 0;
    width: auto;
    flex-direction: row;
    gap: 0;
    overflow-x: auto;
    padding: 0;
    background: var(--paper);
    border-top: 1px solid var(--hair);
  }
  .tab {
    padding: 14px 13px;
    white-space: nowrap;
    min-height: 52px;
  }
  .tab b {
    float: none;
    margin-left: 4px;
  }
  .tab.on {
    margin: 0;
    border-radius: 0;
    padding-left: 13px;
    border-top: 3px solid var(--act);
  }
  .page {
    border: 0;
    border-top: 1px solid var(--hair);
    border-radius: 0;
    padding: 12px 12px 130px;
  }
}
</style>
