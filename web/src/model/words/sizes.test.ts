import { expect, it } from 'vitest';
import { memory, storage } from './sizes';

it('shows memory in IEC and storage in SI units', () => {
	expect(memory(68_719_476_736)).toBe('64 GiB');
	expect(storage(41_000_000_000)).toBe('41 GB');
	expect(storage(1_210_000_000_000)).toBe('1.21 TB');
});
