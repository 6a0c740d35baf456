import { describe, expect, it } from 'vitest';
import { drawnVolumes } from './placement';

const GB = 1e9;
const volume = (id: string, capacity: number | null, free: number | null, kind = 'ssd') => ({
	id,
	mount: `/${id}`,
	kind,
	capacity,
	free,
	system: false
});
const store = (name: string, size: number, now: string | null) => ({ name, size, now, best: now, why: '' });

describe('volumes drawn to scale', () => {
	const volumes = [volume('v0', 500 * GB, 50 * GB), volume('v1', 1000 * GB, 700 * GB)];
	const stores = [store('cache', 100 * GB, 'v0'), store('renders', 200 * GB, 'v1')];

	it('have the height of their capacity, and stores with their share of it', () => {
		const [small, large] = drawnVolumes(volumes, stores, {});
		expect([small?.height, large?.height]).toEqual([0.5, 1]);
		expect(small).toMatchObject({ rest: 0.7, free: 0.1, over: 0, toScale: true, leaving: [] });
		expect(small?.stores).toEqual([{ store: stores[0], share: 0.2, moved: false }]);
		expect(large).toMatchObject({ rest: 0.1, free: 0.7 });
	});

	it('show a store where it would be, and what it leaves', () => {
		const [from, to] = drawnVolumes(volumes, stores, { cache: 'v1' });
		expect(from?.stores).toEqual([]);
		expect(from?.leaving).toEqual([{ store: stores[0], share: 0.2 }]);
		expect(from?.free).toBeCloseTo(0.3);
		expect(to?.stores.map(({ store: { name }, moved }) => [name, moved])).toEqual([
			['cache', true],
			['renders', false]
		]);
		expect(to?.free).toBeCloseTo(0.6);
	});

	it('say by how much a store does not fit', () => {
		const [target] = drawnVolumes([volume('v0', 500 * GB, 50 * GB)], [store('cache', 80 * GB, 'v1')], {
			cache: 'v0'
		});
		expect(target).toMatchObject({ over: 30 * GB, free: 0 });
	});

	it('keep a huge network volume and a tiny one within the picture, not to scale', () => {
		const [share, own, tiny] = drawnVolumes(
			[volume('n0', 96_000 * GB, GB, 'network'), volume('v1', 1000 * GB, 0), volume('v2', 8 * GB, 0)],
			[],
			{}
		);
		expect([share?.height, own?.height, tiny?.height]).toEqual([1, 1, 0.25]);
		expect([share?.toScale, own?.toScale, tiny?.toScale]).toEqual([false, true, false]);
	});

	it('are drawn without figures as well', () => {
		const [unknown] = drawnVolumes([volume('v0', null, null)], [store('cache', 80 * GB, 'v0')], {});
		expect(unknown).toMatchObject({ over: 0, height: 0.25 });
		expect(unknown?.stores[0]?.share).toBe(1);
	});
});
