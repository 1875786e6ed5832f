"""Runs code for ARM or RISC-V in an emulator and holds its bus accesses to a trace, in order.

Takes the code's file, and on standard input JSON: the processor, where calls begin, and the trace. Prints the first
difference, or nothing.
"""
import json
import sys

from unicorn import UC_ARCH_ARM, UC_ARCH_RISCV, UC_HOOK_MEM_READ, UC_HOOK_MEM_WRITE
from unicorn import UC_MEM_READ, UC_MODE_MCLASS, UC_MODE_RISCV32, UC_MODE_THUMB, Uc, UcError
from unicorn.arm_const import UC_ARM_REG_LR, UC_ARM_REG_R0, UC_ARM_REG_SP
from unicorn.riscv_const import UC_RISCV_REG_A0, UC_RISCV_REG_RA, UC_RISCV_REG_SP

CODE, MEMORY, STACK, STOP = 0x10000, 0x10000, 0x3F000, 0x3F800
LONGEST = 20_000_000


def main():
    wanted = json.load(sys.stdin)
    trace = [line.split(' ') for line in wanted['trace']]
    arm = wanted['cpu'] == 'arm'
    uc = Uc(UC_ARCH_ARM, UC_MODE_THUMB | UC_MODE_MCLASS) if arm else Uc(UC_ARCH_RISCV, UC_MODE_RISCV32)
    result, link, stack = (
        (UC_ARM_REG_R0, UC_ARM_REG_LR, UC_ARM_REG_SP)
        if arm
        else (UC_RISCV_REG_A0, UC_RISCV_REG_RA, UC_RISCV_REG_SP)
    )
    uc.mem_map(MEMORY, 0x30000)
    with open(sys.argv[1], 'rb') as code:
        uc.mem_write(CODE, code.read())
    pages = {int(words[2], 16) & ~0xFFF for words in trace if words[0] in 'rw'}
    for page in sorted(pages):
        if not MEMORY <= page < MEMORY + 0x30000:
            uc.mem_map(page, 0x1000)
    position = 0
    wrong = []

    def access(_uc, kind, address, size, value, _data):
        nonlocal position
        if wrong:
            return
        reading = kind == UC_MEM_READ
        words = trace[position] if position < len(trace) else ['nothing']
        seen = ['r' if reading else 'w', str(size * 8), format(address, 'x')]
        if words[:3] != seen or (not reading and int(words[3], 16) != value & (2 ** (8 * size) - 1)):
            wrong.append(f'{position}: {" ".join(seen)} {value:x} instead of {" ".join(words)}')
            uc.emu_stop()
            return
        if reading:
            uc.mem_write(address, int(words[3], 16).to_bytes(size, 'little'))
        position += 1

    for page in pages:
        uc.hook_add(UC_HOOK_MEM_READ | UC_HOOK_MEM_WRITE, access, None, page, page + 0xFFF)
    for number, address in enumerate(wanted['addresses']):
        if trace[position] != ['call', format(number, 'x')]:
            return f'{position}: call {number:x} instead of {" ".join(trace[position])}'
        position += 1
        uc.reg_write(stack, STACK)
        uc.reg_write(link, STOP | (1 if arm else 0))
        try:
            uc.emu_start(address | (1 if arm else 0), STOP, 0, LONGEST)
        except UcError as error:
            return f'{position}: {error}'
        if wrong:
            return wrong[0]
        if uc.reg_read(stack) != STACK:
            return f'{position}: the stack is not as it was'
        if position < len(trace) and trace[position][0] == 'gives':
            if uc.reg_read(result) != int(trace[position][1], 16):
                return f'{position}: gives {uc.reg_read(result):x} instead of {trace[position][1]}'
            position += 1
    return '' if position == len(trace) else f'{position}: ends before {" ".join(trace[position])}'


print(main())
