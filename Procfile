web: python -m workshop.serve
worker: python src/workshop/manage.py run_huey --quiet
link: python -m workshop.link
controller: python -m standins.controller --port $CONTROLLER_PORT --witness-port $WITNESS_PORT --pace $PACE --delay-ms 0.05
second: python -m standins.controller --port $SECOND_PORT --witness-port $SECOND_WITNESS_PORT --pace $PACE --delay-ms 0.03
