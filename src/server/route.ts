import { answering, Problem } from "./problem";

const METHODS = ["GET", "POST", "PUT", "PATCH", "DELETE"] as const;
type Method = (typeof METHODS)[number];
type Handler<C> = (request: Request, context: C) => Promise<Response | object>;
type Handlers<C> = Record<Method, (request: Request, context: C) => Promise<Response>>;

/**
 * The handlers of a route. What one answers or throws becomes JSON or a problem document; methods that the route does
 * not have answer 405 and name those it has.
 * @throws Problem `no-method`
 */
export function route<C>(handlers: Partial<Record<Method, Handler<C>>>): Handlers<C> {
  const allowed = METHODS.filter((m) => handlers[m]);
  const refuse = (method: Method) => (): Promise<Response> =>
    answering(async () => {
      throw new Problem("no-method", { method, allowed }, { headers: { allow: allowed.join(", ") } });
    });
  return Object.fromEntries(
    METHODS.map((method) => {
      const handler = handlers[method];
      return [
        method,
        handler ? (request: Request, context: C) => answering(() => handler(request, context)) : refuse(method),
      ];
    }),
  ) as Handlers<C>;
}
