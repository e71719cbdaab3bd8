"""FTP and FTPS: one control connection, data connections that reuse its TLS session."""
