/** A directive for lists of choices: the box around the field is no second list. */
export const vOneRole = {
  mounted: (el: HTMLElement) => el.querySelector('.v-field')?.removeAttribute('role'),
}
