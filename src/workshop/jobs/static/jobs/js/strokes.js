// Strokes on their way to the job: none is lost, however quickly they follow.

const waiting = { mask_add: [], retouch_add: [] };
const TAKEN_BACK = { mask_add: 'mask_take=last', retouch_add: 'retouch_take=last' };
let sent = false;

const form = () => document.querySelector('#station-form');

export function send(field, value) {
  waiting[field].push(value);
  flush();
}

// All that waits goes in one post; the next waits for its answer.
function flush() {
  const fields = Object.keys(waiting).filter((field) => waiting[field].length && form()?.elements[field]);
  if (sent || !fields.length) return;
  sent = true;
  fields.forEach((field) => { form().elements[field].value = JSON.stringify(waiting[field]); });
  // The first stroke brings new buttons; after it only pictures and counts change.
  const known = fields.every((field) => document.querySelector(`[data-set="${TAKEN_BACK[field]}"]`));
  const event = known ? new CustomEvent('live', { bubbles: false }) : new Event('change', { bubbles: true });
  form().dispatchEvent(event);
}

// Only what really left is off the list: a request may have been held back.
document.addEventListener('htmx:configRequest', (event) => {
  if (event.target.id !== 'station-form') return;
  for (const field of Object.keys(waiting)) {
    const carried = event.detail.parameters[field];
    if (!carried) continue;
    waiting[field] = waiting[field].slice(JSON.parse(carried).length);
    event.target.elements[field].value = '';
  }
});
document.addEventListener('htmx:afterRequest', (event) => {
  // The form itself may have been swapped out by its answer.
  if (event.detail.requestConfig?.elt?.id !== 'station-form') return;
  sent = false;
  setTimeout(flush);
});
