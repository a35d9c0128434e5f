"""One function per thing a person does; the only place where core and store meet."""
