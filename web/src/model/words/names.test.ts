import { expect, it } from 'vitest';
import { nameOf } from './names';

it('writes an application as people do', () => {
	expect([nameOf('corrow'), nameOf('')]).toEqual(['Corrow', '']);
});
