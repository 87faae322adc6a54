/* The clock of the day as a process sees it, ahead by the seconds that a file holds; loaded before the C library. All
   other clocks go as they do. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/time.h>
#include <time.h>

static long ahead_s(void) {
    const char *path = getenv("JUMPING_CLOCK");
    FILE *file = path ? fopen(path, "r") : NULL;
    long seconds = 0;
    if (file) {
        if (fscanf(file, "%ld", &seconds) != 1) seconds = 0;
        fclose(file);
    }
    return seconds;
}

int clock_gettime(clockid_t which, struct timespec *to) {
    static int (*real)(clockid_t, struct timespec *);
    if (!real) real = (int (*)(clockid_t, struct timespec *))dlsym(RTLD_NEXT, "clock_gettime");
    int status = real(which, to);
    if (status == 0 && which == CLOCK_REALTIME) to->tv_sec += ahead_s();
    return status;
}

int gettimeofday(struct timeval *to, void *zone) {
    struct timespec now;
    (void)zone;
    if (clock_gettime(CLOCK_REALTIME, &now) != 0) return -1;
    to->tv_sec = now.tv_sec;
    to->tv_usec = now.tv_nsec / 1000;
    return 0;
}

time_t time(time_t *to) {
    struct timespec now;
    clock_gettime(CLOCK_REALTIME, &now);
    if (to) *to = now.tv_sec;
    return now.tv_sec;
}
