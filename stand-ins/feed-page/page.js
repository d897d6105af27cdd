// The page of the stand-in feed: its settings, and what was sent to it.
const shape = document.querySelector('#feed');
const list = document.querySelector('#feeds');
const kb = (bytes) => `${Math.round(bytes / 1000).toLocaleString('en-GB')} KB`;

/** Asks the server; says in a place of the page what went wrong. */
async function ask(said, address, options) {
  const answer = await fetch(address, options).catch(() => null);
  if (answer?.ok) return true;
  said.textContent = answer ? (await answer.json()).message : 'The stand-in feed does not answer.';
  said.classList.add('wrong');
  return false;
}

function shown(feed, posts) {
  const section = shape.content.cloneNode(true).querySelector('section');
  section.querySelector('h2').textContent = feed.title;
  section.querySelector('.words').textContent = feed.words;
  const form = section.querySelector('form');
  const said = section.querySelector('.said');
  const { longEdge, quality, chroma, leaves, converts } = form.elements;
  longEdge.value = feed.longEdge;
  quality.value = feed.quality;
  chroma.value = feed.chroma;
  leaves.value = (feed.leaves ?? 0) / 1000;
  converts.checked = feed.converts;
  form.addEventListener('submit', async (event) => {
    event.preventDefault();
    const kept = Number(leaves.value) * 1000;
    const body = {
      id: feed.id,
      title: feed.title,
      longEdge: Number(longEdge.value),
      quality: Number(quality.value),
      chroma: chroma.value,
      leaves: kept > 0 ? kept : null,
      converts: converts.checked,
    };
    const options = { method: 'PUT', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) };
    if (await ask(said, `feeds/${feed.id}`, options)) await draw();
  });
  section.querySelector('[type=file]').addEventListener('change', async ({ target }) => {
    const [file] = target.files;
    if (file && (await ask(said, `feeds/${feed.id}/pictures`, { method: 'POST', body: file }))) await draw();
  });
  for (const post of posts) {
    const item = document.createElement('li');
    const link = Object.assign(document.createElement('a'), { href: `pictures/${post.id}` });
    link.append(
      Object.assign(document.createElement('img'), { src: link.href, alt: `Sent ${new Date(post.at).toLocaleString()}`, loading: 'lazy' }),
    );
    item.append(link, `${kb(post.sentBytes)} came, ${kb(post.bytes)} shown`);
    section.querySelector('ul').append(item);
  }
  return section;
}

async function draw() {
  const { feeds, posts } = await (await fetch('wall')).json();
  list.replaceChildren(
    ...feeds.map((feed) =>
      shown(
        feed,
        posts.filter((post) => post.feed === feed.id),
      ),
    ),
  );
}

await draw();
