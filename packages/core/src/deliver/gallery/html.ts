/** Text as it may stand in HTML, also within a value in quotation marks (HTML, 13.3). */
export const escapeHtml = (text: string): string =>
  text.replace(/[&<>"']/g, (sign) => `&#${sign.charCodeAt(0)};`).replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/g, ' ');

/** A path as an address, from the page. */
export const pathAddress = (path: string, base: string): string => escapeHtml(base + path.split('/').map(encodeURIComponent).join('/'));
