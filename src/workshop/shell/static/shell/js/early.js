// The only script that runs before the page is read. A fast hand presses a button before
// the other scripts are there: the press is kept, and made once they are.

{
  const presses = new Map();
  const keep = (event) => {
    const button = event.target instanceof Element && event.target.closest('button[type=button]');
    if (!button) return;
    event.stopImmediatePropagation();
    presses.set(button, () => {
      // A stop does not wait for the finger to leave.
      if (button.matches('[data-stop]')) {
        button.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, button: 0 }));
      }
      button.click();
    });
  };
  // Sent by the browser itself, these would skip their second press or leave the page.
  const hold = (event) => {
    const form = event.target;
    if (!form.matches('[data-twice], [hx-post]')) return;
    event.preventDefault();
    presses.set(form, () => form.requestSubmit(event.submitter));
  };
  addEventListener('click', keep, true);
  addEventListener('submit', hold, true);
  addEventListener('DOMContentLoaded', () => {
    removeEventListener('click', keep, true);
    removeEventListener('submit', hold, true);
    // Others wait for the same moment, and make the buttons work in it.
    setTimeout(() => presses.forEach((press) => press()));
  });
}
