/**
 * What the component library leaves wrong for those who hear the page, put right where it stands: a
 * closed select points at a list that is not there and does not say that it is closed; arrows of a
 * sorted column have names that nobody may read; a question asked first has no name.
 */
function mend(root: ParentNode) {
  for (const box of root.querySelectorAll('input[role=combobox]')) {
    if (!box.hasAttribute('aria-expanded')) box.setAttribute('aria-expanded', 'false')
    for (const name of ['aria-owns', 'aria-controls', 'aria-activedescendant']) {
      const id = box.getAttribute(name)
      if (id !== null && !document.getElementById(id)) box.removeAttribute(name)
    }
  }
  for (const icon of root.querySelectorAll('.anticon[role=presentation][aria-label]'))
    icon.removeAttribute('aria-label')
  for (const question of root.querySelectorAll('[role=dialog]:has(.ant-modal-confirm)'))
    if (!question.hasAttribute('aria-label'))
      question.setAttribute(
        'aria-label',
        question.querySelector('.ant-modal-confirm-title')?.textContent ?? '',
      )
}

/** From now on, at most once a frame, only where something was added or a select changed. */
export function mendAria() {
  let waiting = false
  const later = () => {
    if (waiting) return
    waiting = true
    requestAnimationFrame(() => {
      waiting = false
      mend(document)
    })
  }
  new MutationObserver(later).observe(document.body, {
    subtree: true,
    childList: true,
    attributes: true,
    attributeFilter: ['aria-owns', 'aria-activedescendant', 'aria-controls'],
  })
}
