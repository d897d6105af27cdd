/** The heaviest logo that is taken, in bytes. */
const HEAVIEST = 1_000_000;

export interface Logo {
  name: string;
  kind: 'png' | 'svg';
  /** Base64. */
  data: string;
}

/** Reads a logo that somebody has chosen, or says why it is not taken. */
export async function readLogo(file: File): Promise<{ ok: true; logo: Logo } | { ok: false; sentence: string }> {
  if (file.size > HEAVIEST) return { ok: false, sentence: `${file.name} is heavier than 1 MB. Export it smaller.` };
  const url = await new Promise<string>((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result as string);
    reader.onerror = () => reject(reader.error ?? new Error('The file cannot be read.'));
    reader.readAsDataURL(file);
  }).catch(() => null);
  if (url === null) return { ok: false, sentence: `${file.name} cannot be read.` };
  const kind = file.name.toLowerCase().endsWith('.svg') ? 'svg' : 'png';
  return { ok: true, logo: { name: file.name, kind, data: url.replace(/^[^,]*,/, '') } };
}
