import { main } from "./main";

await main(process.argv);
