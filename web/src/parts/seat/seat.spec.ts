import { describe, expect, test, vi } from 'vitest';
import { render } from 'vitest-browser-svelte';
import type { Placed } from '../../model/house/strip';
import MemoryBar from '../machine/MemoryBar.svelte';
import StripPlot from './StripPlot.svelte';
import Tank from '../machine/Tank.svelte';
import UnusedFiles from './UnusedFiles.svelte';

const GB = 1e9;

describe('the strip of days', () => {
	const NOW = Date.parse('2026-11-28T12:00:00Z');
	const DAYS = 30;
	const GROUP: Placed = {
		x: 0.5,
		at: '2026-11-13T12:00:00.000Z',
		family: 'engine',
		cause: 'ours',
		words: 'Effects: cpu to hadrel'
	};
	const strip = async (at = '') => {
		const onchoose = vi.fn();
		const screen = await render(StripPlot, { groups: [GROUP], now: NOW, days: DAYS, at, onchoose });
		screen.container.style.width = '900px';
		const lanes = screen.container.querySelector<HTMLElement>('.lanes');
		if (!lanes) throw new Error('no lanes');
		return { screen, onchoose, lanes };
	};
	const press = (lanes: HTMLElement, share: number): void => {
		const box = lanes.getBoundingClientRect();
		lanes.dispatchEvent(
			new MouseEvent('click', { clientX: box.left + share * box.width, clientY: box.top + 7, bubbles: true })
		);
	};

	test('a press on a mark means its moment, elsewhere the moment of the place', async () => {
		const { lanes, onchoose } = await strip();
		press(lanes, 0.5);
		expect(onchoose).toHaveBeenLastCalledWith(GROUP.at);
		press(lanes, 0.25);
		const chosen = Date.parse(onchoose.mock.lastCall?.[0] as string);
		expect(Math.abs(chosen - (NOW - 0.75 * DAYS * 86_400_000))).toBeLessThan(3_600_000);
	});

	test('a mark stands at its share of the width, and says what changed', async () => {
		const { lanes } = await strip();
		const mark = lanes.querySelector<HTMLElement>('[title]');
		const [box, whole] = [mark?.getBoundingClientRect(), lanes.getBoundingClientRect()];
		expect(((box?.left ?? 0) + (box?.width ?? 0) / 2 - whole.left) / whole.width).toBeCloseTo(0.5, 2);
		expect(mark?.title).toContain('ours: Effects: cpu to hadrel');
	});

	test('the slider says the moment, and at its end that it is now', async () => {
		const { screen, onchoose } = await strip('2026-11-13T12:00:00.000Z');
		const slider = screen.getByRole('slider', { name: 'as of' });
		await expect.element(slider).toHaveValue(String((DAYS * 24) / 2));
		await slider.fill(String(DAYS * 24));
		expect(onchoose).toHaveBeenLastCalledWith('');
	});
});

describe('a volume', () => {
	test('is as full as it is, with its stores at the top of what is used', async () => {
		const volume = { id: 'v1', mount: '/fast', kind: 'nvme', capacity: 1000 * GB, free: 250 * GB };
		const stores = [{ purpose: 'source_cache', path: '/fast/cache', size: 100 * GB, unused: 60 * GB }];
		const screen = await render(Tank, { volume, stores });
		const tank = screen.container.querySelector<HTMLElement>('.tank');
		const [used, store] = ['.used', '.store'].map((part) => tank?.querySelector<HTMLElement>(part)?.style);
		expect([used?.width, store?.width, store?.right]).toEqual(['75%', '10%', '25%']);
		await expect.element(screen.container).toHaveTextContent('250 GB free of 1 TB');
		await expect
			.element(screen.container)
			.toHaveTextContent('source cache /fast/cache: 100 GB, 60 GB unused');
	});

	test('of which nothing was read has no share of anything', async () => {
		const screen = await render(Tank, { volume: { id: 'v0', mount: '/' }, stores: [] });
		expect(screen.container.innerHTML).not.toContain('NaN');
	});
});

test('memory that is given away twice hangs over the end, and says by how much', async () => {
	const [total, over] = [32 * 2 ** 30, 8 * 2 ** 30];
	const shares = [
		{ name: 'Preview pool', app: 'corrow', size: 24 * 2 ** 30 },
		{ name: 'Held back', app: null, size: 16 * 2 ** 30 }
	];
	const screen = await render(MemoryBar, { budget: { total, shares, over } });
	await expect
		.element(screen.container)
		.toHaveTextContent('8 GiB more than the machine has: it will swap to disk');
	expect(screen.container.querySelector<HTMLElement>('.end')?.style.left).toBe('80%');
	const fits = await render(MemoryBar, { budget: { total, shares: shares.slice(0, 1), over: 0 } });
	await expect.element(fits.container).toHaveTextContent('free 8 GiB');
});

describe('what nobody used', () => {
	const items = Array.from({ length: 30 }, (_, number) => ({
		path: `peaks/${number}.pek`,
		size: GB,
		used_at: '2026-08-01T00:00:00Z'
	}));
	const listing = {
		folder: '/fast/cache',
		count: 50,
		size: 50 * GB,
		unused: 40,
		unused_size: 40 * GB,
		items
	};
	const list = async (fixed = false) => {
		const onmark = vi.fn();
		const screen = await render(UnusedFiles, {
			listing: listing as never,
			staying: new Set(['peaks/0.pek']),
			fixed,
			onmark
		});
		return { screen, onmark };
	};

	test('goes unless it is kept; the first are shown, the others on demand', async () => {
		const { screen, onmark } = await list();
		await expect.element(screen.getByRole('checkbox', { name: 'Delete peaks/0.pek' })).not.toBeChecked();
		await screen.getByRole('checkbox', { name: 'Delete peaks/1.pek' }).click();
		expect(onmark).toHaveBeenLastCalledWith('peaks/1.pek', false);
		expect(screen.getByRole('checkbox').all()).toHaveLength(24);
		await screen.getByRole('button', { name: 'Show 6' }).click();
		expect(screen.getByRole('checkbox').all()).toHaveLength(30);
		await expect.element(screen.container).toHaveTextContent('The largest 30 are listed.');
	});

	test('cannot be chosen otherwise once the order went out', async () => {
		const { screen } = await list(true);
		await expect.element(screen.getByRole('checkbox').first()).toBeDisabled();
	});
});
