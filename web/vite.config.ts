import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { playwright } from '@vitest/browser-playwright';
import { defineConfig } from 'vitest/config';

// Debian's Chromium, as the journeys use it: nothing is downloaded, and nobody calls home.
const chromium = playwright({
	launchOptions: {
		executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium-headless-shell',
		args: ['--no-sandbox', '--disable-background-networking']
	}
});

const server = process.env['NORMANT_ADDRESS'] ?? 'http://127.0.0.1:8400';

export default defineConfig({
	plugins: [tailwindcss(), svelte()],
	base: '/',
	// script/dev: the interface from its sources, every question to the server; to that it is the page's own origin.
	server: {
		proxy: Object.fromEntries(
			['/api', '/calendar', '/metrics'].map((path) => [
				path,
				{ target: server, changeOrigin: true, headers: { origin: server } }
			])
		)
	},
	build: { target: 'es2022', assetsInlineLimit: 0, chunkSizeWarningLimit: 700 },
	test: {
		projects: [
			{ extends: true, test: { name: 'plain', include: ['src/**/*.test.ts'] } },
			{
				extends: true,
				// All of it is looked through at once: what is found later would load the page of a test anew.
				optimizeDeps: {
					entries: ['src/**/*.{ts,svelte}'],
					include: ['@skeletonlabs/skeleton-svelte', 'openapi-fetch']
				},
				test: {
					name: 'drawn', // components in a real browser
					include: ['src/**/*.spec.ts'],
					setupFiles: ['src/tests/page.ts'],
					browser: {
						enabled: true,
						headless: true,
						provider: chromium,
						instances: [{ browser: 'chromium' }],
						screenshotFailures: false,
						viewport: { width: 1280, height: 800 },
						api: { host: '127.0.0.1' }
					}
				}
			}
		]
	}
});
