// Keys of the ticket; none works while something is being typed.

import { typing } from '../../shell/js/page.js';

const $ = (selector) => document.querySelector(selector);

document.addEventListener('keydown', (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing(event.target)) {
    event.preventDefault();
    $(event.shiftKey ? '#redo' : '#undo')?.click();
    return;
  }
  if (event.key === 'Escape' && typing(event.target)) event.target.blur();
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (/^[1-9]$/.test(event.key)) {
    event.preventDefault();
    $(`[data-number="${event.key}"]`)?.click();
  } else if (event.key.toLowerCase() === 'a') {
    $('#auto-tone')?.click();
  } else if (event.key.toLowerCase() === 'c') {
    event.preventDefault();
    $('#row-check')?.click();
  }
});

// A station that opens shows its head: only what scrolls by itself is scrolled, never
// the page's frame. The focus stays on its row.
let opened = $('#stations')?.dataset.station;
function bringIntoSight(row) {
  const list = row.closest('.stations');
  const own = list.scrollHeight > list.clientHeight + 1 && getComputedStyle(list).overflowY !== 'visible';
  const frame = own ? list.getBoundingClientRect() : { top: 0, bottom: innerHeight };
  const body = row.closest('.station').getBoundingClientRect();
  const { top } = row.getBoundingClientRect();
  const over = body.bottom - frame.bottom;
  let by = 0;
  if (top < frame.top) by = top - frame.top;
  else if (over > 0) by = Math.min(over, top - frame.top);
  if (own) list.scrollBy(0, by);
  else scrollBy(0, by);
}
document.addEventListener('htmx:afterSettle', () => {
  const station = $('#stations')?.dataset.station;
  if (!station || station === opened) return;
  opened = station;
  const row = $('.station.is-cur .station__row');
  if (!row) return;
  if (document.activeElement === document.body) row.focus({ preventScroll: true });
  bringIntoSight(row);
});
