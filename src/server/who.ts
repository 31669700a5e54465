/** Who made a change: the browser tab that sends its name along, else the interface itself. */
export const whoOf = (request: Request): string => (request.headers.get("x-trialmoor-tab") ?? "http").slice(0, 40);
