/** The stock of equipment is built in: what it is called by, and its name. */
export const equipmentId = 'equipment';
export const equipmentName = 'Equipment';
