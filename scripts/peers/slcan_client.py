"""An independent CAN library's slcan client asks the simulated vehicle; prints one line an answer: request, id, data."""
import sys
import time

import can

bus = can.Bus(interface="slcan", channel=f"socket://127.0.0.1:{sys.argv[1]}", bitrate=500000, sleep_after_open=0)


def send(arbitration_id, data):
    padded = data + [0x55] * (8 - len(data))
    bus.send(can.Message(arbitration_id=arbitration_id, data=padded, is_extended_id=False))


def answers(name, wait=0.6):
    end = time.time() + wait
    while time.time() < end:
        m = bus.recv(timeout=0.1)
        if m is None:
            continue
        print(name, format(m.arbitration_id, "03X"), m.data.hex().upper(), flush=True)
        if m.data[0] >> 4 == 1:
            send(m.arbitration_id - 8, [0x30, 0, 0])


for name, request in [("0100", [2, 1, 0]), ("010C", [2, 1, 0x0C]), ("0106", [2, 1, 6]), ("0902", [2, 9, 2])]:
    send(0x7DF, request)
    answers(name)
bus.shutdown()
