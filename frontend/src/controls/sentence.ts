/** The server's lower-case line as a sentence begins. */
export const sentence = (message: string): string => message.charAt(0).toUpperCase() + message.slice(1);
