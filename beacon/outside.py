"""What lies outside this server, and may be asked: a webhook's receiver, an organisation's own sign-in."""

import ipaddress

from django.conf import settings


def may_be_asked(address: str) -> bool:
    """Whether anything may be asked at an address: in the allowed networks; one that is not public only where it is named."""
    one = ipaddress.ip_address(address.split("%")[0])
    one = getattr(one, "ipv4_mapped", None) or one
    networks = (ipaddress.ip_network(text) for text in settings.WEBHOOK_NETWORKS)
    return any(
        one.version == network.version and one in network and (one.is_global or network.prefixlen > 0)
        for network in networks
    )
