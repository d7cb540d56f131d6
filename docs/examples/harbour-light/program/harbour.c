/* The same day in C, over the first interface of libgpiod. All pins are as planned. */
#include <gpiod.h>
#include <unistd.h>

enum { PIER_RED = 41, PIER_GREEN = 34, HORN = 43, BELL = 33, DOOR = 38, TIDE_MARK = 40 };
static const unsigned int lens[4] = { 45, 59, 42, 47 };

static struct gpiod_line *output(struct gpiod_chip *chip, unsigned int number)
{
    struct gpiod_line *line = gpiod_chip_get_line(chip, number);
    gpiod_line_request_output(line, "harbour", 0);
    return line;
}

int main(void)
{
    struct gpiod_chip *chip = gpiod_chip_open("/dev/gpiochip0");
    struct gpiod_line *red = output(chip, PIER_RED);
    struct gpiod_line *green = output(chip, PIER_GREEN);
    struct gpiod_line *door = gpiod_chip_get_line(chip, DOOR);

    gpiod_line_request_input_flags(door, "harbour", GPIOD_LINE_REQUEST_FLAG_BIAS_PULL_UP);
    for (int k = 0; k < 4; k++)
        output(chip, lens[k]);
    for (;;) {
        gpiod_line_set_value(red, gpiod_line_get_value(door));
        gpiod_line_set_value(green, !gpiod_line_get_value(door));
        sleep(1);
    }
}
