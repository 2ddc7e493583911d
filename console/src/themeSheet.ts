/** What Vuetify gives a manager of the page's head: its theme as a style sheet. */
interface Head {
  style: { textContent: string }[]
}

/** Gives Vuetify's theme a constructed style sheet: the policy on inline styles has no say over it. */
export function themeSheet() {
  const sheet = new CSSStyleSheet()
  const show = (head: () => Head) => {
    sheet.replaceSync(head().style[0]?.textContent ?? '')
  }
  return {
    push(head: () => Head) {
      show(head)
      document.adoptedStyleSheets.push(sheet)
      return { patch: show }
    },
  }
}
