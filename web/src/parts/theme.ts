import { usePreferredDark, useStorage } from '@vueuse/core'
import { theme as antTheme } from 'ant-design-vue'
import { computed, watchEffect } from 'vue'

const chosen = useStorage<'light' | 'dark' | 'system'>('theme', 'system')
const prefersDark = usePreferredDark()
export const dark = computed(
  () => chosen.value === 'dark' || (chosen.value === 'system' && prefersDark.value),
)
watchEffect(() => {
  document.documentElement.dataset.theme = dark.value ? 'dark' : 'light'
})

export function toggleTheme() {
  chosen.value = dark.value ? 'light' : 'dark'
}

/** The component library in our own colours and type: tokens only, no default blue. */
export const antTokens = computed(() => ({
  algorithm: dark.value ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
  token: {
    colorPrimary: dark.value ? '#e39ac0' : '#6d2b50',
    colorInfo: dark.value ? '#7fbf9c' : '#2c5b45',
    colorBgBase: dark.value ? '#1f2629' : '#fbf8f1',
    colorTextBase: dark.value ? '#e9e4d8' : '#22292b',
    colorBorder: dark.value ? '#3a4449' : '#d8cfbd',
    fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
    fontSize: 15,
    borderRadius: 3,
    wireframe: false,
  },
}))
