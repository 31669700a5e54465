/** Runs once as the server starts: opens the database and ships the examples into an empty one. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== "nodejs") return;
  const { seedExamples } = await import("./server/studies");
  await seedExamples();
}
