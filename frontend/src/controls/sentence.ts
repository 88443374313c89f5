/** The server's lower-case line as a sentence begins. */
export const sentence = (message: string): string => message.charAt(0).toUpperCase() + message.slice(1);

/** A label as it goes on inside a line; names in it stay as they are. */
export const withinLine = (label: string): string => label.charAt(0).toLowerCase() + label.slice(1);
