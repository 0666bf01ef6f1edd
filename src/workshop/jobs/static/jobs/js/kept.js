// What could not be sent is kept over a reload, and sent by the next page of this ticket.

const KEPT = 'ember-unsent:';
const own = (form) => KEPT + form.getAttribute('hx-post');
// Private windows have no storage: there it is kept as long as the page.
const storage = () => {
  try {
    return window.localStorage;
  } catch {
    return null;
  }
};

export function keepUnsent(form, told, unit) {
  const pairs = [...told].filter(([, value]) => typeof value === 'string');
  if (pairs.some(([name]) => name === 'changed')) storage()?.setItem(own(form), JSON.stringify({ pairs, unit }));
  else letGo(form);
}
export function letGo(form) {
  storage()?.removeItem(own(form));
}

// Whether anything was kept for this ticket, and is saved now.
export async function sendKept() {
  const base = document.querySelector('#stage')?.dataset.base ?? location.pathname;
  const places = Object.keys(storage() ?? {}).filter((key) => key.startsWith(KEPT + base));
  let sent = false;
  for (const place of places) {
    const { pairs, unit } = JSON.parse(storage().getItem(place));
    const headers = { 'HX-Request': 'true', 'X-Units': unit, ...JSON.parse(document.body.getAttribute('hx-headers')) };
    const told = new FormData();
    pairs.forEach(([name, value]) => told.append(name, value));
    try {
      const answer = await fetch(place.slice(KEPT.length), { method: 'POST', headers, body: told });
      // Refused for good, it is not asked for again with every page.
      if (answer.status < 500) storage().removeItem(place);
      sent ||= answer.ok && !answer.headers.get('X-Faults');
    } catch {
      break; // still away: the next page tries again
    }
  }
  return sent;
}
