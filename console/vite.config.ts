import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig, loadEnv } from 'vite';
import { manual } from './manual';

// `npm run dev` beside a running service: HIGHSHELF_URL names it.
const service = loadEnv('', '.', 'HIGHSHELF_').HIGHSHELF_URL ?? 'http://localhost:7117';

export default defineConfig({
	plugins: [tailwindcss(), svelte(), manual('../docs')],
	build: {
		outDir: '../src/highshelf/service/static',
		emptyOutDir: true,
		// The policy of the service allows nothing inline, pictures and fonts neither.
		assetsInlineLimit: 0,
		target: 'es2022',
		// Fonts would otherwise count against the limit of what is worth a warning.
		chunkSizeWarningLimit: 400,
	},
	server: { proxy: { '/api': { target: service, changeOrigin: false } } },
});
