"""The stand-in control panel: HTML forms of our own design that make real databases and users in MariaDB."""
