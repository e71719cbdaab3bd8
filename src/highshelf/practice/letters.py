"""The letter a new customer gets from the Saltmarsh Web Co-op."""

from __future__ import annotations

from highshelf.practice.layout import Customer, Layout


def welcome_letter(layout: Layout, customer: Customer, password: str) -> str:
    """The text of the welcome letter: how to reach the files, the site and the panel."""
    transfer = {
        "ssh": f"SFTP and SSH:       {layout.host}, port {layout.port('ssh')}",
        "sftp": f"SFTP:               {layout.host}, port {layout.port('ssh')} (no shell)",
        "ftps": f"FTP with TLS:       {layout.host}, port {layout.port('ftp')}",
        "ftps-implicit": f"FTPS:               {layout.host}, port {layout.port('ftp-implicit')} (implicit TLS)",
        "ftp": f"FTP:                {layout.host}, port {layout.port('ftp-plain')}",
    }[customer.access]
    until = f"The domain {customer.domain} will follow as soon as the name servers know it."
    if customer.domain in layout.address(customer):
        until += f"\nUntil then the web server that answers to it is {layout.host}, port {layout.reach(customer).rpartition(':')[2]}."
    return f"""Saltmarsh Web Co-op

Dear {customer.title},

your webspace is ready.

Customer number:    {customer.number}
Login:              {layout.login(customer)}
Password:           {password}
{transfer}
Document root:      {customer.seen_root if not customer.lands_in_root else "the folder you land in"}
Address:            {layout.address(customer)}
Control panel:      {layout.panel_address} (customer number and the same password)
Database server:    localhost

{until}

Yours, the co-op's boat shed
"""
