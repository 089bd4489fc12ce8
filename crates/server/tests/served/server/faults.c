/* A layer between the server and the disk, for tests: preloaded, it lets writes or syncs fail while the file named by
 * ZOLVIK_FAULT says so; the file named by ZOLVIK_CLOCK says by how many seconds the clock of the day is wrong. `full`: no room. `write`: an error of the disk. `sync`: syncing fails. Only regular files are touched. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <time.h>
#include <unistd.h>

static int fault(int fd, int syncing) {
    struct stat about;
    char kind[16] = {0};
    const char *path = getenv("ZOLVIK_FAULT");
    if (!path || fstat(fd, &about) || !S_ISREG(about.st_mode)) return 0;
    int told = syscall(SYS_openat, AT_FDCWD, path, O_RDONLY);
    if (told < 0) return 0;
    ssize_t length = syscall(SYS_read, told, kind, sizeof kind - 1);
    syscall(SYS_close, told);
    if (length <= 0) return 0;
    if (syncing) return strncmp(kind, "sync", 4) == 0 ? EIO : 0;
    if (strncmp(kind, "full", 4) == 0) return ENOSPC;
    return strncmp(kind, "write", 5) == 0 ? EIO : 0;
}

#define FAIL(fd, syncing) do { int why = fault(fd, syncing); if (why) { errno = why; return -1; } } while (0)

ssize_t write(int fd, const void *from, size_t count) { FAIL(fd, 0); return syscall(SYS_write, fd, from, count); }
ssize_t pwrite(int fd, const void *from, size_t count, off_t at) { FAIL(fd, 0); return syscall(SYS_pwrite64, fd, from, count, at); }
ssize_t pwrite64(int fd, const void *from, size_t count, off64_t at) { FAIL(fd, 0); return syscall(SYS_pwrite64, fd, from, count, at); }
int fsync(int fd) { FAIL(fd, 1); return syscall(SYS_fsync, fd); }
int fdatasync(int fd) { FAIL(fd, 1); return syscall(SYS_fdatasync, fd); }

int clock_gettime(clockid_t which, struct timespec *now) {
    int done = syscall(SYS_clock_gettime, which, now);
    const char *path = getenv("ZOLVIK_CLOCK");
    if (done || which != CLOCK_REALTIME || !path) return done;
    char text[32] = {0};
    int told = syscall(SYS_openat, AT_FDCWD, path, O_RDONLY);
    if (told < 0) return done;
    if (syscall(SYS_read, told, text, sizeof text - 1) > 0) now->tv_sec += atol(text);
    syscall(SYS_close, told);
    return done;
}
