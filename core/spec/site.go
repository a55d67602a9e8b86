package spec

// Site is the site document: where the system under test is and which databases are watched.
type Site struct {
	Site  string `json:"site"`
	Title string `json:"title,omitempty"`
	// Address is the base URL, such as http://127.0.0.1:4650.
	Address string `json:"address,omitempty"`
	// Allowed are further hosts (host or host:port) that may be contacted; the address's own host always may.
	Allowed []string `json:"allowed,omitempty"`
	// Pace is the most submissions under way at once; 0 is the default of 4.
	Pace      int        `json:"pace,omitempty"`
	Databases []Database `json:"databases,omitempty"`
}

// Database is a database whose base tables are watched.
type Database struct {
	ID   string `json:"id,omitempty"`
	Kind string `json:"kind,omitempty"`
	// DSN is a data source name: user:password@tcp(host:port)/name.
	DSN string `json:"dsn,omitempty"`
	// Ignore lists tables that are not watched: sessions, logs.
	Ignore []string `json:"ignore,omitempty"`
}
