import { APP, RUNTIME, type Whose } from './whose';

/** The platform's own packages (common practice: those of the JDK's modules). */
const PLATFORM = /^(?:java|javax|jdk|sun|com\.sun|netscape\.javascript)\./;

/** Whose code a method of the JVM is. Nothing tells a dependency's package from the application's. @param name `pkg.Class.method` */
export const whoseJava = (name: string): Whose => (PLATFORM.test(name) ? RUNTIME : APP);
