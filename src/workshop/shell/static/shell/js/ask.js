// The slip of the handbook: opened by a "?", closed by its button or Escape.

import { typing } from './page.js';

const slip = document.querySelector('#ask');
let from = null; // the "?" that was pressed last; the focus goes back to it

document.addEventListener('click', (event) => {
  const asked = event.target.closest('.ask');
  if (asked) from = asked;
  if (event.target.closest('[data-ask-close]')) close();
});
document.addEventListener('htmx:afterSwap', (event) => {
  if (event.detail.target !== slip) return;
  slip.scrollTop = 0;
  slip.querySelector('h2')?.focus({ preventScroll: true });
});

// A station's answer may have brought another "?" in the place of the one that was pressed.
function close() {
  slip.replaceChildren();
  const same = from?.isConnected ? from : from && document.querySelector(`.ask[href="${from.getAttribute('href')}"]`);
  same?.focus();
}

// Escape closes the list of keys first, and what is drawn; see page.js.
document.addEventListener('keydown', (event) => {
  if (event.key === 'Escape' && slip.firstElementChild && (slip.contains(event.target) || !typing(event.target))) {
    event.preventDefault();
    close();
  }
  if (event.key !== 'e' || typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  const asked = document.querySelector('.fold[open] .ask') ?? document.querySelector('.station .ask');
  asked?.click();
});
