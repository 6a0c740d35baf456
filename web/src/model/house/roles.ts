/** The roles of a seat, as the register has them. */
export const SEAT_ROLES = ['offline', 'assist', 'comp', 'finishing', 'ingest', 'delivery'];
