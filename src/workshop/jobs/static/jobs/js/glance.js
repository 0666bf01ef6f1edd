// The picture a moving slider makes: asked for with what is typed, and answered by the
// picture itself. One is on its way at a time; the next one carries the newest.

import { asTyped } from './line.js';

const STATIONS = ['artwork', 'tone', 'dots'];
const REST_MS = 5000; // what cannot be looked at so comes the other way meanwhile
const stage = () => document.querySelector('#stage');
let flying = false;
let again = false;
let unable = 0; // until when it is not tried again

export const looking = () => flying;

// Whether the picture comes this way.
export function glance(form) {
  const table = stage()?.table;
  const station = document.querySelector('#stations')?.dataset.station;
  if (!table?.lookedAt || !STATIONS.includes(station) || performance.now() < unable) return false;
  if (flying) again = true;
  else ask(form, station, table);
  return true;
}

async function ask(form, station, table) {
  const { lookedAt, told } = table;
  flying = true;
  try {
    const where = new URLSearchParams({ view: lookedAt.view, ...lookedAt.window });
    const headers = { 'HX-Request': 'true', 'X-Units': document.querySelector('#pictures').dataset.unit, ...JSON.parse(document.body.getAttribute('hx-headers')) };
    const answer = await fetch(`${table.base}look/${station}/?${where}`, { method: 'POST', headers, body: asTyped(form) });
    if (answer.status === 200) {
      const bitmap = await createImageBitmap(await answer.blob());
      // The page was told something newer meanwhile: this is past.
      if (told === table.told) {
        table.right.take(lookedAt.view, answer.headers.get('X-Key'), lookedAt.window, bitmap);
        document.querySelector('#readings')?.classList.add('is-waiting');
      }
    } else unable = performance.now() + REST_MS;
  } catch {
    unable = performance.now() + REST_MS; // the way that keeps what cannot be sent takes over
  }
  flying = false;
  if (!again) return;
  again = false;
  if (form.isConnected) glance(form);
}
