using System.Globalization;

namespace WarySentinel.Core.Access;

/// <summary>Whether one colour can be read on another (WCAG 2.2 §1.4.3), and the nearest that can. Colours are written <c>#rrggbb</c>.</summary>
public static class Contrast
{
    /// <summary>The ratio that text of usual size needs.</summary>
    public const double Needed = 4.5;

    private const int Steps = 512;

    // Of each part of a colour, what it gives of light (WCAG 2.2, "relative luminance").
    private static readonly double[] Linear =
        [.. Enumerable.Range(0, 256).Select(part => part / 255.0 is var c && c <= 0.04045 ? c / 12.92 : Math.Pow((c + 0.055) / 1.055, 2.4))];

    /// <summary>The contrast ratio of two colours, from 1 to 21 (WCAG 2.2, "contrast ratio").</summary>
    public static double Of(string one, string other)
    {
        var (a, b) = (Luminance(one), Luminance(other));
        return (Math.Max(a, b) + 0.05) / (Math.Min(a, b) + 0.05);
    }

    /// <summary>The one of some colours that can be read best on a ground.</summary>
    public static string BestOn(string ground, params IReadOnlyList<string> inks) => inks.MaxBy(i => Of(i, ground))!;

    /// <summary>The colour nearest to one that can be read on every ground: darker or lighter, whichever needs less; null where none can.</summary>
    public static string? NearestOn(string colour, params IReadOnlyList<string> grounds)
    {
        for (var step = 0; step <= Steps; step++)
        {
            foreach (var towards in new[] { 0, 255 })
            {
                var mixed = Mix(colour, towards, step / (double)Steps);
                if (grounds.All(g => Of(mixed, g) >= Needed))
                {
                    return mixed;
                }
            }
        }

        return null;
    }

    /// <summary>The ground nearest to one on which one of some colours can be read.</summary>
    public static string NearestGround(string ground, params IReadOnlyList<string> inks) =>
        Enumerable.Range(0, Steps + 1).SelectMany(step => new[] { 0, 255 }.Select(to => Mix(ground, to, step / (double)Steps)))
            .First(g => inks.Any(i => Of(i, g) >= Needed));

    /// <summary>A colour with that share of its light gone.</summary>
    public static string Darkened(string colour, double share) => Mix(colour, 0, share);

    private static string Mix(string colour, int towards, double share) => "#" + string.Concat(Enumerable.Range(0, 3)
        .Select(n => (int)Math.Round(Part(colour, n) + ((towards - Part(colour, n)) * share))).Select(v => v.ToString("x2", null)));

    private static double Luminance(string colour) =>
        (0.2126 * Linear[Part(colour, 0)]) + (0.7152 * Linear[Part(colour, 1)]) + (0.0722 * Linear[Part(colour, 2)]);

    private static int Part(string colour, int n) => int.Parse(colour.AsSpan(1 + (2 * n), 2), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture);
}
