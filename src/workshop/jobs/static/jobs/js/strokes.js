// Strokes on their way to the job: none is lost, however quickly they follow.

import { act } from './line.js';

const waiting = { mask_add: [], retouch_add: [] };
const TAKEN_BACK = { mask_add: 'mask_take=last', retouch_add: 'retouch_take=last' };
let queued = false;

export function send(field, value) {
  waiting[field].push(value);
  if (queued) return;
  queued = true;
  // All that waits goes in one post; while that is on its way the next ones gather.
  const fields = Object.keys(waiting);
  // The first stroke brings new buttons; after it only pictures and counts change.
  const known = fields.filter((one) => waiting[one].length)
    .every((one) => document.querySelector(`[data-set="${TAKEN_BACK[one]}"]`));
  act(document.querySelector('#station-form'), gathered, { live: known, dropped });
}

// Not sent: the strokes wait for the next one, or go by themselves where they still can.
function dropped() {
  queued = false;
  const [field] = Object.entries(waiting).find(([, strokes]) => strokes.length) ?? [];
  if (field && document.querySelector(`#station-form [name="${field}"]`)) setTimeout(() => send(field, waiting[field].pop()));
}

function gathered() {
  queued = false;
  const filled = Object.entries(waiting).filter(([, strokes]) => strokes.length);
  return Object.fromEntries(filled.map(([field, strokes]) => [field, JSON.stringify(strokes.splice(0))]));
}
