/* Made by Kairotic 0.1.0 from dome.toml (SHA-256 69bbe548bd2fc1f1...).
   Again by: kairotic emit dome.toml --to generated --as c
   What is changed here by hand is lost then. All that follows: SHA-256 c39f58dd8338f17e... */
#include <limits.h>

#include "dome.h"

/* Taken for granted: bytes of eight bits, and pointers of 4 bytes or more. */
typedef char dome_assert_bytes[(CHAR_BIT == 8) ? 1 : -1];
typedef char dome_assert_pointers[(sizeof(uintptr_t) >= 4U) ? 1 : -1];

/* A build that states its clock as DOME_CLOCK_HZ is held to the plan's. */
#if defined(DOME_CLOCK_HZ) && DOME_CLOCK_HZ != 96000000UL
#error "the plan is for a clock of 96000000 Hz"
#endif

/* All accesses go through these two; a test may put others in their place. */
#ifndef DOME_WRITE
#define DOME_READ(bits, address) (*(volatile uint##bits##_t *)(uintptr_t)(address))
#define DOME_WRITE(bits, address, value) \
    (*(volatile uint##bits##_t *)(uintptr_t)(address) = (uint##bits##_t)(value))
#endif

void dome_start(void)
{
    /* RCC_APB1ENR: clock to PWR */
    DOME_WRITE(32, 0x40023840UL, (DOME_READ(32, 0x40023840UL) & 0xEFFFFFFFUL) | 0x10000000UL);
    /* PWR_CR: core voltage, for ahb of 96 MHz */
    DOME_WRITE(32, 0x40007000UL, (DOME_READ(32, 0x40007000UL) & 0xFFFF3FFFUL) | 0x0000C000UL);
    /* FLASH_ACR: flash wait states, for ahb of 96 MHz */
    DOME_WRITE(32, 0x40023C00UL, (DOME_READ(32, 0x40023C00UL) & 0xFFFFFFF0UL) | 0x00000003UL);
    /* RCC_CR: starts the crystal oscillator */
    DOME_WRITE(32, 0x40023800UL, (DOME_READ(32, 0x40023800UL) & 0xFFFEFFFFUL) | 0x00010000UL);
    /* RCC_CR: the crystal oscillator is stable */
    while ((DOME_READ(32, 0x40023800UL) & 0x00020000UL) != 0x00020000UL) {
    }
    /* RCC_PLLCFGR: the PLL's input from the HSE; divide by 6; multiply by 96 */
    DOME_WRITE(32, 0x40023804UL, (DOME_READ(32, 0x40023804UL) & 0xFFBF8000UL) | 0x00401806UL);
    /* RCC_CR: starts the PLL */
    DOME_WRITE(32, 0x40023800UL, (DOME_READ(32, 0x40023800UL) & 0xFEFFFFFFUL) | 0x01000000UL);
    /* RCC_CR: the PLL is stable */
    while ((DOME_READ(32, 0x40023800UL) & 0x02000000UL) != 0x02000000UL) {
    }
    /* RCC_CFGR: divide by 1; divide by 2; divide by 1 */
    DOME_WRITE(32, 0x40023808UL, (DOME_READ(32, 0x40023808UL) & 0xFFFF030FUL) | 0x00001000UL);
    /* RCC_CFGR: SYSCLK from the PLL */
    DOME_WRITE(32, 0x40023808UL, (DOME_READ(32, 0x40023808UL) & 0xFFFFFFFCUL) | 0x00000002UL);
    /* RCC_CFGR: what was chosen runs */
    while ((DOME_READ(32, 0x40023808UL) & 0x0000000CUL) != 0x00000008UL) {
    }
    /* RCC_APB1ENR: clock to TIM3; clock to TIM2; clock to TIM4; clock to TIM5 */
    DOME_WRITE(32, 0x40023840UL, (DOME_READ(32, 0x40023840UL) & 0xFFFFFFF0UL) | 0x0000000FUL);
    /* RCC_APB2ENR: clock to TIM1 */
    DOME_WRITE(32, 0x40023844UL, (DOME_READ(32, 0x40023844UL) & 0xFFFFFFFEUL) | 0x00000001UL);
    /* RCC_AHB1ENR: clock to port A; clock to port B */
    DOME_WRITE(32, 0x40023830UL, (DOME_READ(32, 0x40023830UL) & 0xFFFFFFFCUL) | 0x00000003UL);
    /* GPIOA_AFRL: the timer's function for PA6; the timer's function for PA7; the timer's function for PA5; the timer's function for PA0 */
    DOME_WRITE(32, 0x40020020UL, (DOME_READ(32, 0x40020020UL) & 0x000FFFF0UL) | 0x22100002UL);
    /* GPIOA_MODER: PA6 has an alternate function; PA7 has an alternate function; PA8 has an alternate function; PA5 has an alternate function; PA0 has an alternate function */
    DOME_WRITE(32, 0x40020000UL, (DOME_READ(32, 0x40020000UL) & 0xFFFC03FCUL) | 0x0002A802UL);
    /* GPIOA_AFRH: the timer's function for PA8 */
    DOME_WRITE(32, 0x40020024UL, (DOME_READ(32, 0x40020024UL) & 0xFFFFFFF0UL) | 0x00000001UL);
    /* GPIOB_AFRL: the timer's function for PB6 */
    DOME_WRITE(32, 0x40020420UL, (DOME_READ(32, 0x40020420UL) & 0xF0FFFFFFUL) | 0x02000000UL);
    /* GPIOB_MODER: PB6 has an alternate function */
    DOME_WRITE(32, 0x40020400UL, (DOME_READ(32, 0x40020400UL) & 0xFFFFCFFFUL) | 0x00002000UL);
    /* TIM3_PSC: divide by 30 */
    DOME_WRITE(32, 0x40000428UL, 0x0000001DUL);
    /* TIM3_ARR: 64000 ticks a period */
    DOME_WRITE(32, 0x4000042CUL, 0x0000F9FFUL);
    /* TIM3_CCR1: 4320 ticks active */
    DOME_WRITE(32, 0x40000434UL, 0x000010E0UL);
    /* TIM3_CCR2: 4240 ticks active */
    DOME_WRITE(32, 0x40000438UL, 0x00001090UL);
    /* TIM3_CR1: edge-aligned; counts up; ARR is buffered */
    DOME_WRITE(32, 0x40000400UL, 0x00000080UL);
    /* TIM3_CCMR1: PWM mode 1; compare is buffered; PWM mode 1; compare is buffered */
    DOME_WRITE(32, 0x40000418UL, 0x00006868UL);
    /* TIM1_PSC: divide by 1 */
    DOME_WRITE(32, 0x40010028UL, 0x00000000UL);
    /* TIM1_ARR: 5000 ticks a period */
    DOME_WRITE(32, 0x4001002CUL, 0x00001387UL);
    /* TIM1_CCR1: 1405 ticks active */
    DOME_WRITE(32, 0x40010034UL, 0x0000057DUL);
    /* TIM1_CR1: edge-aligned; counts up; ARR is buffered */
    DOME_WRITE(32, 0x40010000UL, 0x00000080UL);
    /* TIM1_CCMR1: PWM mode 1; compare is buffered */
    DOME_WRITE(32, 0x40010018UL, 0x00000068UL);
    /* TIM1_RCR: an update every period */
    DOME_WRITE(32, 0x40010030UL, 0x00000000UL);
    /* TIM1_BDTR: outputs on */
    DOME_WRITE(32, 0x40010044UL, 0x00008000UL);
    /* TIM2_PSC: divide by 1 */
    DOME_WRITE(32, 0x40000028UL, 0x00000000UL);
    /* TIM2_ARR: 96000 ticks a period */
    DOME_WRITE(32, 0x4000002CUL, 0x000176FFUL);
    /* TIM2_CCR1: 4239 ticks active */
    DOME_WRITE(32, 0x40000034UL, 0x0000108FUL);
    /* TIM2_CR1: edge-aligned; counts up; ARR is buffered */
    DOME_WRITE(32, 0x40000000UL, 0x00000080UL);
    /* TIM2_CCMR1: PWM mode 1; compare is buffered */
    DOME_WRITE(32, 0x40000018UL, 0x00000068UL);
    /* TIM4_PSC: divide by 3000 */
    DOME_WRITE(32, 0x40000828UL, 0x00000BB7UL);
    /* TIM4_ARR: 64000 ticks a period */
    DOME_WRITE(32, 0x4000082CUL, 0x0000F9FFUL);
    /* TIM4_CCR1: 24000 ticks active */
    DOME_WRITE(32, 0x40000834UL, 0x00005DC0UL);
    /* TIM4_CR1: edge-aligned; counts up; ARR is buffered */
    DOME_WRITE(32, 0x40000800UL, 0x00000080UL);
    /* TIM4_CCMR1: PWM mode 1; compare is buffered */
    DOME_WRITE(32, 0x40000818UL, 0x00000068UL);
    /* TIM5_PSC: divide by 1 */
    DOME_WRITE(32, 0x40000C28UL, 0x00000000UL);
    /* TIM5_ARR: 3840 ticks a period */
    DOME_WRITE(32, 0x40000C2CUL, 0x00000EFFUL);
    /* TIM5_CCR1: 2394 ticks active */
    DOME_WRITE(32, 0x40000C34UL, 0x0000095AUL);
    /* TIM5_CR1: edge-aligned; counts up; ARR is buffered */
    DOME_WRITE(32, 0x40000C00UL, 0x00000080UL);
    /* TIM5_CCMR1: PWM mode 1; compare is buffered */
    DOME_WRITE(32, 0x40000C18UL, 0x00000068UL);
    /* TIM3_EGR: loads PSC and the buffered values before the start */
    DOME_WRITE(32, 0x40000414UL, 0x00000001UL);
    /* TIM1_EGR: loads PSC and the buffered values before the start */
    DOME_WRITE(32, 0x40010014UL, 0x00000001UL);
    /* TIM2_EGR: loads PSC and the buffered values before the start */
    DOME_WRITE(32, 0x40000014UL, 0x00000001UL);
    /* TIM4_EGR: loads PSC and the buffered values before the start */
    DOME_WRITE(32, 0x40000814UL, 0x00000001UL);
    /* TIM5_EGR: loads PSC and the buffered values before the start */
    DOME_WRITE(32, 0x40000C14UL, 0x00000001UL);
    /* TIM3_CCER: output on; active high; output on; active high */
    DOME_WRITE(32, 0x40000420UL, 0x00000011UL);
    /* TIM1_CCER: output on; active high */
    DOME_WRITE(32, 0x40010020UL, 0x00000001UL);
    /* TIM2_CCER: output on; active high */
    DOME_WRITE(32, 0x40000020UL, 0x00000001UL);
    /* TIM4_CCER: output on; active high */
    DOME_WRITE(32, 0x40000820UL, 0x00000001UL);
    /* TIM5_CCER: output on; active high */
    DOME_WRITE(32, 0x40000C20UL, 0x00000001UL);
    /* TIM3_CR1: counter on */
    DOME_WRITE(32, 0x40000400UL, 0x00000081UL);
    /* TIM1_CR1: counter on */
    DOME_WRITE(32, 0x40010000UL, 0x00000081UL);
    /* TIM2_CR1: counter on */
    DOME_WRITE(32, 0x40000000UL, 0x00000081UL);
    /* TIM4_CR1: counter on */
    DOME_WRITE(32, 0x40000800UL, 0x00000081UL);
    /* TIM5_CR1: counter on */
    DOME_WRITE(32, 0x40000C00UL, 0x00000081UL);
}

static void dome_shutter_put(uint16_t compare)
{
    DOME_WRITE(32, 0x40000434UL, compare);
}

void dome_shutter_set_compare(uint16_t compare)
{
    if (compare < DOME_SHUTTER_COMPARE_LOWEST) {
        compare = DOME_SHUTTER_COMPARE_LOWEST;
    }
    if (compare > DOME_SHUTTER_COMPARE_HIGHEST) {
        compare = DOME_SHUTTER_COMPARE_HIGHEST;
    }
    dome_shutter_put(compare);
}

/* Inputs 0..12000 to compare values 2880..6720.
   Largest error 0.52 compare steps: every one of the 12001 inputs was looked at.
   Largest number on the way 51311, of words of 16 bits. */
static uint16_t dome_shutter_compare_of(uint16_t input)
{
    uint16_t x = input;
    return (uint16_t)(UINT16_C(2880) + (x >> 5) * UINT16_C(10) + (((x >> 5) * UINT16_C(123) + (x & UINT16_C(31)) * UINT16_C(164) + UINT16_C(225)) >> 9));
}

void dome_shutter_set(int16_t level)
{
    if (level < DOME_SHUTTER_LEVEL_LOWEST) {
        level = DOME_SHUTTER_LEVEL_LOWEST;
    }
    if (level > DOME_SHUTTER_LEVEL_HIGHEST) {
        level = DOME_SHUTTER_LEVEL_HIGHEST;
    }
    dome_shutter_put((uint16_t)dome_shutter_compare_of((uint16_t)level));
}

static void dome_dome_put(uint16_t compare)
{
    DOME_WRITE(32, 0x40000438UL, compare);
}

void dome_dome_set_compare(uint16_t compare)
{
    if (compare < DOME_DOME_COMPARE_LOWEST) {
        compare = DOME_DOME_COMPARE_LOWEST;
    }
    if (compare > DOME_DOME_COMPARE_HIGHEST) {
        compare = DOME_DOME_COMPARE_HIGHEST;
    }
    dome_dome_put(compare);
}

/* Inputs -10000..10000 to compare values 3200..6400.
   Largest error 0.52 compare steps: every one of the 20001 inputs was looked at.
   Largest number on the way 43644, of words of 16 bits. */
static uint16_t dome_dome_compare_of(int16_t input)
{
    uint16_t x = (uint16_t)((uint16_t)input - (uint16_t)-10000);
    return (uint16_t)(UINT16_C(3200) + (x >> 6) * UINT16_C(10) + (((x >> 6) * UINT16_C(123) + (x & UINT16_C(63)) * UINT16_C(82) + UINT16_C(225)) >> 9));
}

void dome_dome_set(int16_t level)
{
    if (level < DOME_DOME_LEVEL_LOWEST) {
        level = DOME_DOME_LEVEL_LOWEST;
    }
    if (level > DOME_DOME_LEVEL_HIGHEST) {
        level = DOME_DOME_LEVEL_HIGHEST;
    }
    dome_dome_put((uint16_t)dome_dome_compare_of((int16_t)level));
}

static void dome_vent_put(uint16_t compare)
{
    DOME_WRITE(32, 0x40010034UL, compare);
}

void dome_vent_set_compare(uint16_t compare)
{
    if (compare < DOME_VENT_COMPARE_LOWEST) {
        compare = DOME_VENT_COMPARE_LOWEST;
    }
    if (compare > DOME_VENT_COMPARE_HIGHEST) {
        compare = DOME_VENT_COMPARE_HIGHEST;
    }
    dome_vent_put(compare);
}

/* Inputs 0..10000 to compare values 700..1875.
   Largest error 0.51 compare steps: every one of the 10001 inputs was looked at.
   Largest number on the way 37918, of words of 16 bits. */
static uint16_t dome_vent_compare_of(uint16_t input)
{
    uint16_t x = input;
    return (uint16_t)(UINT16_C(700) + (x >> 7) * UINT16_C(15) + (((x >> 7) * UINT16_C(82) + (x & UINT16_C(127)) * UINT16_C(241) + UINT16_C(997)) >> 11));
}

void dome_vent_set(int16_t level)
{
    if (level < DOME_VENT_LEVEL_LOWEST) {
        level = DOME_VENT_LEVEL_LOWEST;
    }
    if (level > DOME_VENT_LEVEL_HIGHEST) {
        level = DOME_VENT_LEVEL_HIGHEST;
    }
    if (level == 0) {
        dome_vent_put(0U);
    } else {
        dome_vent_put((uint16_t)dome_vent_compare_of((uint16_t)level));
    }
}

static void dome_flat_field_put(uint32_t compare)
{
    DOME_WRITE(32, 0x40000034UL, compare);
}

void dome_flat_field_set_compare(uint32_t compare)
{
    if (compare > DOME_FLAT_FIELD_COMPARE_HIGHEST) {
        compare = DOME_FLAT_FIELD_COMPARE_HIGHEST;
    }
    dome_flat_field_put(compare);
}

/* Inputs 0..100 to compare values 0..96000.
   Largest error 0.4903 compare steps: every one of the 101 inputs was looked at.
   Largest number on the way 96000, of words of 32 bits. */
static uint32_t dome_flat_field_compare_of(uint32_t input)
{
    static const uint32_t values[] = { 0, 106, 213, 319, 425, 531, 638, 744, 850, 961, 1081, 1211, 1350, 1500, 1661, 1832, 2015, 2210, 2417, 2637, 2869, 3115, 3375, 3648, 3936, 4239, 4557, 4890, 5239, 5604, 5986, 6385, 6802, 7236, 7688, 8158, 8648, 9156, 9685, 10233, 10801, 11390, 12000, 12631, 13285, 13960, 14658, 15379, 16123, 16890, 17682, 18498, 19339, 20204, 21096, 22013, 22956, 23926, 24923, 25947, 26998, 28078, 29186, 30323, 31490, 32685, 33911, 35167, 36453, 37771, 39119, 40500, 41913, 43358, 44836, 46347, 47892, 49470, 51084, 52731, 54414, 56132, 57886, 59676, 61503, 63367, 65268, 67206, 69183, 71198, 73251, 75344, 77476, 79648, 81861, 84114, 86407, 88743, 91120, 93539, 96000 };
    uint32_t x = input;
    return values[x];
}

void dome_flat_field_set(int16_t level)
{
    if (level < DOME_FLAT_FIELD_LEVEL_LOWEST) {
        level = DOME_FLAT_FIELD_LEVEL_LOWEST;
    }
    if (level > DOME_FLAT_FIELD_LEVEL_HIGHEST) {
        level = DOME_FLAT_FIELD_LEVEL_HIGHEST;
    }
    dome_flat_field_put((uint32_t)dome_flat_field_compare_of((uint32_t)level));
}

static void dome_dew_heater_put(uint16_t compare)
{
    DOME_WRITE(32, 0x40000834UL, compare);
}

void dome_dew_heater_set_compare(uint16_t compare)
{
    if (compare > DOME_DEW_HEATER_COMPARE_HIGHEST) {
        compare = DOME_DEW_HEATER_COMPARE_HIGHEST;
    }
    dome_dew_heater_put(compare);
}

/* Inputs 0..8000 to compare values 0..64000.
   Largest error 0 compare steps: every one of the 8001 inputs was looked at.
   Largest number on the way 64000, of words of 16 bits. */
static uint16_t dome_dew_heater_compare_of(uint16_t input)
{
    uint16_t x = input;
    return (uint16_t)(x * UINT16_C(8));
}

void dome_dew_heater_set(int16_t level)
{
    if (level < DOME_DEW_HEATER_LEVEL_LOWEST) {
        level = DOME_DEW_HEATER_LEVEL_LOWEST;
    }
    if (level > DOME_DEW_HEATER_LEVEL_HIGHEST) {
        level = DOME_DEW_HEATER_LEVEL_HIGHEST;
    }
    dome_dew_heater_put((uint16_t)dome_dew_heater_compare_of((uint16_t)level));
}

static void dome_camera_fan_put(uint32_t compare)
{
    DOME_WRITE(32, 0x40000C34UL, compare);
}

void dome_camera_fan_set_compare(uint32_t compare)
{
    if (compare < DOME_CAMERA_FAN_COMPARE_LOWEST) {
        compare = DOME_CAMERA_FAN_COMPARE_LOWEST;
    }
    if (compare > DOME_CAMERA_FAN_COMPARE_HIGHEST) {
        compare = DOME_CAMERA_FAN_COMPARE_HIGHEST;
    }
    dome_camera_fan_put(compare);
}

/* Inputs 0..100 to compare values 0..3840.
   Largest error 0.4941 compare steps: every one of the 101 inputs was looked at.
   Largest number on the way 3840, of words of 16 bits. */
static uint16_t dome_camera_fan_compare_of(uint16_t input)
{
    static const uint16_t values[] = { 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 768, 804, 840, 876, 913, 949, 985, 1021, 1057, 1093, 1129, 1166, 1202, 1238, 1274, 1310, 1346, 1382, 1419, 1455, 1491, 1527, 1563, 1599, 1635, 1672, 1708, 1744, 1780, 1816, 1852, 1888, 1925, 1961, 1997, 2033, 2069, 2105, 2141, 2178, 2214, 2250, 2286, 2322, 2358, 2394, 2430, 2467, 2503, 2539, 2575, 2611, 2647, 2683, 2720, 2756, 2792, 2828, 2864, 2900, 2936, 2973, 3009, 3045, 3081, 3117, 3153, 3189, 3226, 3262, 3298, 3334, 3370, 3406, 3442, 3479, 3515, 3551, 3587, 3623, 3659, 3695, 3732, 3768, 3804, 3840 };
    uint16_t x = input;
    return values[x];
}

void dome_camera_fan_set(int16_t level)
{
    if (level < DOME_CAMERA_FAN_LEVEL_LOWEST) {
        level = DOME_CAMERA_FAN_LEVEL_LOWEST;
    }
    if (level > DOME_CAMERA_FAN_LEVEL_HIGHEST) {
        level = DOME_CAMERA_FAN_LEVEL_HIGHEST;
    }
    if (level == 0) {
        dome_camera_fan_put(0U);
    } else {
        dome_camera_fan_put((uint32_t)dome_camera_fan_compare_of((uint16_t)level));
    }
}

void dome_tim3_hold(void)
{
    /* TIM3_CR1: no update: what is preloaded waits */
    DOME_WRITE(32, 0x40000400UL, (DOME_READ(32, 0x40000400UL) & 0xFFFFFFFDUL) | 0x00000002UL);
}

void dome_tim3_release(void)
{
    /* TIM3_CR1: what waits is taken over at the next update */
    DOME_WRITE(32, 0x40000400UL, DOME_READ(32, 0x40000400UL) & 0xFFFFFFFDUL);
}

void dome_stop(void)
{
    dome_shutter_put(0U);
    dome_dome_put(0U);
    dome_vent_put(0U);
    dome_flat_field_put(0U);
    dome_dew_heater_put(0U);
    dome_camera_fan_put(0U);
}
