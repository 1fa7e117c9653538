/** Where menus and dialogs are put: in the page's main part, so that they belong to a landmark. */
export function inMain(): HTMLElement | null {
  return document.querySelector("main");
}
