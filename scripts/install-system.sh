#!/usr/bin/env bash
# Installs what the machine lacks, by apt package name: nothing if all is there. With "browser", what the tests need too.
set -euo pipefail
want=()
command -v python3 >/dev/null || want+=(python3)
python3 -c 'import venv, ensurepip' 2>/dev/null || want+=(python3-venv)
command -v node >/dev/null || want+=(nodejs)
command -v npm >/dev/null || want+=(npm)
if [ "${1:-}" = browser ]; then
	command -v chromium-headless-shell >/dev/null || want+=(chromium-headless-shell)
	command -v g++ >/dev/null || want+=(g++)
	command -v ngspice >/dev/null || want+=(ngspice)
	command -v avr-g++ >/dev/null || want+=(gcc-avr avr-libc)
	test -e /usr/include/simavr/sim_avr.h || want+=(gcc libsimavr-dev libelf-dev)
fi
if [ ${#want[@]} -gt 0 ]; then
	echo "Installing: ${want[*]}"
	export DEBIAN_FRONTEND=noninteractive
	if [ "$(id -u)" -ne 0 ]; then
		echo "This needs the packages named above. Install them, or run this once as root." >&2
		exit 1
	fi
	apt-get update -qq
	apt-get install -y -qq --no-install-recommends "${want[@]}" >/dev/null
fi
python3 -c 'import sys; sys.exit(0 if sys.version_info >= (3, 11) else "Odd Lamp needs Python 3.11 or newer")'
node -e 'if (+process.versions.node.split(".")[0] < 20) { console.error("Odd Lamp needs Node 20 or newer"); process.exit(1) }'
