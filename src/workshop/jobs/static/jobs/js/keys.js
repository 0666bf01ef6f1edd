// Keys of the ticket; none works while something is being typed.

import { typing } from '/static/shell/js/page.js';

const $ = (selector) => document.querySelector(selector);

document.addEventListener('keydown', (event) => {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !typing(event.target)) {
    event.preventDefault();
    $(event.shiftKey ? '#redo' : '#undo')?.click();
    return;
  }
  if (event.key === 'Escape' && typing(event.target)) event.target.blur();
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (/^[1-8]$/.test(event.key)) {
    event.preventDefault();
    $(`[data-number="${event.key}"]`)?.click();
  } else if (event.key.toLowerCase() === 'a') {
    $('#auto-tone')?.click();
  } else if (event.key.toLowerCase() === 'c') {
    event.preventDefault();
    $('#row-check')?.click();
  }
});

// A station opened by key keeps the focus on its row.
document.addEventListener('htmx:afterSwap', (event) => {
  if (event.target.id !== 'stations') return;
  $('.station.is-cur')?.scrollIntoView({ block: 'nearest' });
  const row = event.detail.requestConfig?.elt;
  if (row?.classList?.contains('station__row')) document.getElementById(row.id)?.focus();
});
