import { watchEffect } from 'vue'

/** The title of the page, as it stands in the browser's tab and history. */
export function useHead(title: () => string) {
  watchEffect(() => {
    const now = title()
    document.title = now ? `${now} · Brisk Larder` : 'Brisk Larder'
  })
}
