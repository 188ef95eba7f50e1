"""Threads that compute, wait for a lock, sleep and read a socket; the fault handler writes them."""
import faulthandler, queue, socket, threading, time

lock = threading.Lock()
jobs = queue.Queue()

def hold():
    with lock:
        time.sleep(2)

def wait():
    with lock:
        pass

def work():
    jobs.get()

def compute():
    end = time.time() + 1
    while time.time() < end:
        sum(i * i for i in range(1000))

def listen():
    with socket.socket() as server:
        server.bind(("127.0.0.1", 0))
        server.listen()
        server.settimeout(1.5)
        try:
            server.accept()
        except OSError:
            pass

for target in (hold, wait, work, compute, listen):
    threading.Thread(target=target, name=target.__name__, daemon=True).start()
time.sleep(0.3)
with open("python.txt", "w") as file:
    faulthandler.dump_traceback(file, all_threads=True)
