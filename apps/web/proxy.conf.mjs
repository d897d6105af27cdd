// For npm run dev: calls of the page go to the server that scripts/dev.mjs has started.
export default { '/api': { target: process.env.RUNDLE_DEV_SERVER ?? 'http://127.0.0.1:4830', changeOrigin: true } };
