"""SFTP and the shell over one SSH connection (asyncssh), as plain calls."""
