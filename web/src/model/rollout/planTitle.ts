import type { Schemas } from '../../api/client';

/** What a plan comes to, in a title. */
const count = (many: number, one: string): string => `${many} ${one}${many === 1 ? '' : 's'}`;

/** How many changes on how many seats, and errands, a plan comes to. */
export function sizeOf(plan: readonly Schemas['SeatPlanOut'][]): {
	changes: number;
	seats: number;
	errands: number;
} {
	return {
		changes: plan.reduce((sum, seat) => sum + seat.changes.length, 0),
		seats: plan.filter((seat) => seat.changes.length).length,
		errands: plan.reduce((sum, seat) => sum + seat.left.filter((left) => left.errand).length, 0)
	};
}

export function titleOf(changes: number, seats: number, errands: number): string {
	if (!changes && errands) return `Plan: ${count(errands, 'errand')}`;
	const more = errands ? `, ${count(errands, 'errand')}` : '';
	return `Plan: ${count(changes, 'change')} on ${count(seats, 'seat')}${more}`;
}
