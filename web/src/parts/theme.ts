import { usePreferredDark, useStorage } from '@vueuse/core'
import { theme as antTheme } from 'ant-design-vue'
import enGB from 'ant-design-vue/es/locale/en_GB'
import enUS from 'ant-design-vue/es/locale/en_US'
import dayjs from 'dayjs'
import daysUS from 'dayjs/locale/en'
import daysGB from 'dayjs/locale/en-gb'
import { computed, watchEffect } from 'vue'
import type { Ways } from './units'

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

/** The grounds and inks of `style.css`, where the component library reckons with them. */
const LIGHT = {
  act: '#6d2b50', living: '#2c5b45', warm: '#a64a22', page: '#fbf8f1', ink: '#22292b', soft: '#566063',
  edge: '#857a66', wash: '#f1e3ea', hair: '#ece5d6', raised: '#fdfbf6',
} // prettier-ignore
const DARK = {
  act: '#e39ac0', living: '#7fbf9c', warm: '#e79a6f', page: '#1f2629', ink: '#e9e4d8', soft: '#a7aeac',
  edge: '#7c8789', wash: '#3d2632', hair: '#2b3337', raised: '#262e32',
} // prettier-ignore

/** The component library in our own colours, type and corners: paper and ink, no default blue. */
export const antTokens = computed(() => {
  const c = dark.value ? DARK : LIGHT
  return {
    algorithm: dark.value ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
    token: {
      colorPrimary: c.act,
      colorInfo: c.living,
      colorSuccess: c.living,
      colorWarning: c.warm,
      colorError: c.warm,
      colorLink: c.act,
      colorLinkHover: c.act,
      colorLinkActive: c.act,
      colorBgBase: c.page,
      colorBgContainer: c.page,
      colorBgElevated: c.raised,
      colorTextBase: c.ink,
      colorText: c.ink,
      colorTextSecondary: c.soft,
      colorTextTertiary: c.soft,
      colorTextDescription: c.soft,
      colorTextPlaceholder: c.soft,
      colorTextHeading: c.ink,
      colorTextLightSolid: dark.value ? '#2a0f1e' : '#ffffff',
      colorBorder: c.edge,
      colorBorderSecondary: c.hair,
      colorSplit: c.hair,
      controlItemBgActive: c.wash,
      controlItemBgHover: c.hair,
      controlHeight: 34,
      controlHeightSM: 26,
      fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
      fontSize: 15,
      fontSizeSM: 13,
      borderRadius: 3,
      borderRadiusLG: 4,
      borderRadiusSM: 2,
      boxShadow: '0 2px 10px rgb(0 0 0 / 12%)',
      boxShadowSecondary: '0 2px 10px rgb(0 0 0 / 14%)',
      motionDurationMid: '0.1s',
      motionDurationSlow: '0.12s',
      wireframe: false,
    },
  }
})

/** The library's own words, dates in the household's order, its week's first day. */
export function antLocale(ways: Ways) {
  const american = ways.locale === 'en-US'
  dayjs.locale({ ...(american ? daysUS : daysGB), weekStart: ways.firstWeekday })
  return american ? enUS : enGB
}
