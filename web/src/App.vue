<script setup lang="ts">
import { onKeyStroke, useMediaQuery } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { actAs, servedFrom } from './api/client'
import { lastAct, useCounts, useHome, useUndo } from './api/queries'
import type FindBox from './parts/FindBox.vue'
import { useHead } from './parts/head'
import { newHere, notForUs } from './parts/keys'
import { sheetsOpen } from './parts/sheets'
import { antLocale, antTokens, dark, toggleTheme } from './parts/theme'
import { waysOf } from './parts/units'
import { writeLike } from './parts/words'
import { ROOMS } from './router'

const route = useRoute()
const router = useRouter()
const home = useHome()
const { undo } = useUndo()
const find = ref<InstanceType<typeof FindBox> | null>(null)
const help = ref(false)
const phone = useMediaQuery('(max-width: 760px)')

const waiting = useCounts()
const counts = computed<Record<string, number | undefined>>(() => {
  const n = waiting.data.value
  return { Today: n?.today, Storage: n?.storage, Tests: n?.tests, Needs: n?.needs }
})
const inRoom = (path: string) => route.path === path || route.path.startsWith(`${path}/`)
const room = computed(() => ROOMS.find((r) => inRoom(r.path)))
/** On a phone four rooms stand in the foot; the other four behind a word that names the one that is open. */
const IN_FOOT = 4
const shown = computed(() => (phone.value ? ROOMS.slice(0, IN_FOOT) : ROOMS))
const hidden = computed(() => (phone.value ? ROOMS.slice(IN_FOOT) : []))
const hiddenOpen = computed(() => hidden.value.find((r) => inRoom(r.path)))
const hiddenActs = computed(() =>
  hidden.value.map((r) => ({
    words: counts.value[r.name] ? `${r.name} (${counts.value[r.name]})` : r.name,
    act: () => void router.push(r.path),
  })),
)
useHead(() => String(route.meta.title ?? room.value?.name ?? ''))
/** A new page is announced and takes the focus, so that the next Tab is in it. */
const announced = ref('')
const pageEl = ref<HTMLElement | null>(null)
watch(
  () => route.path,
  () => {
    announced.value = String(route.meta.title ?? room.value?.name ?? '')
    if (!sheetsOpen.value) pageEl.value?.focus({ preventScroll: true })
  },
)

const who = ref<number | null>(null)
const people = computed(() =>
  (home.data.value?.people ?? []).map((p) => ({ value: p.id ?? 0, label: p.name })),
)
watch(
  () => home.data.value,
  (now) => {
    if (!now) return
    writeLike(now.household, now.today)
    who.value = servedFrom(now.file_id, now.people)
  },
  { immediate: true },
)
watch(who, (id) => actAs(id))
const locale = computed(() => antLocale(waysOf(home.data.value?.household)))
const warnings = computed(() => {
  const now = home.data.value
  if (!now) return []
  const notes = now.notes.map((note) => `Set right in this file: ${note}`)
  return now.trouble
    ? [`${now.trouble}. What you see is right; what you do cannot be kept until then.`, ...notes]
    : notes
})

onKeyStroke(true, (e) => {
  if (notForUs(e) || sheetsOpen.value || e.defaultPrevented) return
  const to = ROOMS[Number(e.key) - 1]
  if (e.key >= '1' && e.key <= '8' && to) router.push(to.path)
  else if (e.key === '/') find.value?.show()
  else if (e.key === 'n' && newHere.value) newHere.value.act()
  else if (e.key === '?') help.value = true
  else if (e.key === 'u' && lastAct.value) undo(lastAct.value.id, lastAct.value.words)
  else if (e.key === 'Escape') {
    if (route.path.split('/').length > 2) router.push(`/${route.path.split('/')[1]}`)
    return
  } else return
  e.preventDefault()
})
</script>

<template>
  <AConfigProvider :theme="antTokens" :locale :auto-insert-space-in-button="false">
    <a class="skip" href="#page">Skip to the page</a>
    <p class="visually-hidden" aria-live="polite">{{ announced }}</p>
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
      <Choice
        v-if="people.length"
        v-model="who"
        class="who"
        :options="people"
        none="somebody"
        hears="Who is here"
        name="who"
      />
      <AButton @click="toggleTheme">{{ dark ? 'Light' : 'Dark' }}</AButton>
      <AButton class="keys" title="all shortcuts (?)" @click="help = true">Keys <kbd>?</kbd></AButton>
    </header>
    <YearRibbon v-if="!phone || inRoom('/today')" />
    <AwayBar />
    <div class="main">
      <nav class="tabs" aria-label="Rooms">
        <RouterLink
          v-for="(r, i) in shown"
          :key="r.path"
          :to="r.path"
          class="tab"
          :class="{ on: inRoom(r.path) }"
          :aria-current="inRoom(r.path) ? 'page' : undefined"
          :title="`${r.for} (${i + 1})`"
        >
          {{ r.name }}
          <b v-if="counts[r.name]">{{ counts[r.name] }}<span class="visually-hidden"> open</span></b>
        </RouterLink>
        <More
          v-if="hidden.length"
          class="tab"
          :class="{ on: hiddenOpen }"
          :acts="hiddenActs"
          :words="hiddenOpen?.name ?? 'More'"
          up
        />
      </nav>
      <main id="page" ref="pageEl" class="page" tabindex="-1">
        <AAlert
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
    <KeysSheet v-if="help" @close="help = false" />
  </AConfigProvider>
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
.who {
  width: 120px;
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
    z-index: 900;
    bottom: 0;
    left: 0;
    right: 0;
    width: auto;
    display: grid;
    grid-template-columns: repeat(5, 1fr);
    gap: 0;
    padding: 0;
    background: var(--paper);
    border-top: 1px solid var(--hair);
  }
  .tab {
    padding: 14px 4px;
    text-align: center;
    white-space: nowrap;
    height: 54px;
    border: 0;
    border-radius: 0;
    background: none;
    box-shadow: none;
  }
  .tab b {
    float: none;
    margin-left: 2px;
  }
  .tab.on {
    margin: 0;
    border-radius: 0;
    padding-left: 4px;
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
