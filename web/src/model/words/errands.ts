/** Errands along the floor. */
import type { Schemas } from '../../api/client';

export type RoomOfErrands = { name: string; errands: Schemas['ErrandOut'][] };

/** The stops of a way, room by room; one walks through a room once. */
export function byRoom(stops: Schemas['StopOut'][]): RoomOfErrands[] {
	const rooms = new Map<string, Schemas['ErrandOut'][]>();
	for (const stop of stops) rooms.set(stop.room, [...(rooms.get(stop.room) ?? []), ...stop.errands]);
	return [...rooms].map(([name, errands]) => ({ name, errands }));
}
