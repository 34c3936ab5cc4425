/** After a press with the mouse, give the keys back to the page: they are to be hit blind. Tab keeps its focus. */
export const keysFree = () =>
  setTimeout(() => {
    const now = document.activeElement as HTMLElement | null;
    if (now?.matches('button, input[type=checkbox], [role=combobox]')) now.blur();
  });
