/** Which build of the interface this is: what an earlier one kept of the server's answers is not read by it. */
declare const __BUILD__: string;
