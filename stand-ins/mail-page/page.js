// @ts-check
// The letters, newest first; asked for anew every two seconds.
const main = /** @type {HTMLElement} */ (document.querySelector('#letters'));
const template = /** @type {HTMLTemplateElement} */ (document.querySelector('#letter'));

/** @param {number} bytes */
const weight = (bytes) => (bytes < 1e6 ? `${Math.round(bytes / 1000)} KB` : `${(bytes / 1e6).toFixed(1)} MB`);

/** @typedef {{ id: string, at: string, from: string, to: string[], subject: string, text: string, bytes: number, attachments: { name: string, type: string, bytes: number }[] }} Letter */

/** @param {Letter} letter */
function show(letter) {
  const one = /** @type {DocumentFragment} */ (template.content.cloneNode(true));
  /** @param {string} selector @returns {any} */
  const at = (selector) => one.querySelector(selector);
  at('h2').textContent = letter.subject;
  const time = new Date(letter.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
  at('.about').textContent = `From ${letter.from || 'nobody'} to ${letter.to.join(', ')}; ${time}; ${weight(letter.bytes)}`;
  at('pre').textContent = letter.text;
  at('.raw').href = `/letters/${letter.id}/message.eml`;
  for (const [number, { name, type, bytes }] of letter.attachments.entries()) {
    const item = document.createElement('li');
    if (type.startsWith('image/')) {
      const image = document.createElement('img');
      image.src = `/letters/${letter.id}/attachments/${number}`;
      image.alt = '';
      image.loading = 'lazy';
      item.append(image);
    }
    item.append(`${name}, ${weight(bytes)}`);
    at('ul').append(item);
  }
  return one;
}

let shown = '';
async function look() {
  const response = await fetch('/letters').catch(() => null);
  if (!response?.ok) return;
  const letters = /** @type {Letter[]} */ (await response.json());
  const now = letters.map(({ id }) => id).join();
  if (now === shown && main.childElementCount) return;
  shown = now;
  main.replaceChildren(...(letters.length ? letters.map(show) : ['Nothing has come yet.']));
}
void look();
setInterval(() => void look(), 2000);
