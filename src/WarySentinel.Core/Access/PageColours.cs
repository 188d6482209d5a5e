using System.Runtime.CompilerServices;

namespace WarySentinel.Core.Access;

/// <summary>The colours of pages in one theme, put together from the owner's so that everything on them can be read.</summary>
/// <param name="Ground">Behind the panel.</param>
/// <param name="Sky">The second colour there.</param>
/// <param name="OnGround">Words on both.</param>
/// <param name="Accent">Links and the like on the panel.</param>
public sealed record PageColours(string Ground, string Sky, string OnGround, string Accent)
{
    /// <summary>The panel by day, as in <c>account.css</c>.</summary>
    public const string Sheet = "#fffdf8";

    /// <summary>The panel by night.</summary>
    public const string NightSheet = "#1b2430";

    private const double Dusk = 0.86;
    private static readonly ConditionalWeakTable<SiteLook, PageColours> Nights = [];
    private static readonly string[] Inks = ["#14202e", "#eef2f5"];

    /// <summary>The colours by day.</summary>
    public static PageColours ByDay(SiteLook look) => Of(look.Background, look.Sky ?? look.Background, look.Accent);

    /// <summary>
    /// The colours by night: the owner's, or the ground of the day with the light gone. Reckoned once for each look (1 ms), as every page asks for them.
    /// </summary>
    public static PageColours ByNight(SiteLook look) => Nights.GetValue(look, NightOf);

    /// <summary>What cannot be read in a look: the field, its colour, and the nearest that could be.</summary>
    public static IEnumerable<(string Field, string Colour, string Nearest)> Unreadable(SiteLook look)
    {
        if (Contrast.Of(look.Accent, Sheet) < Contrast.Needed)
        {
            yield return ("look.accent", look.Accent, Contrast.NearestOn(look.Accent, Sheet)!);
        }

        foreach (var (field, ground) in new[] { ("look.background", look.Background), ("look.night", look.Night) })
        {
            if (ground is not null && Inks.All(i => Contrast.Of(i, ground) < Contrast.Needed))
            {
                yield return (field, ground, Contrast.NearestGround(ground, Inks));
            }
        }

        if (look.Sky is { } sky && Contrast.Of(Contrast.BestOn(look.Background, Inks), sky) < Contrast.Needed)
        {
            yield return ("look.sky", sky, Contrast.NearestGround(sky, Contrast.BestOn(look.Background, Inks)));
        }
    }

    private static PageColours NightOf(SiteLook look)
    {
        var (isDark, accent) = (Contrast.BestOn(look.Background, Inks) == Inks[1], Contrast.NearestOn(look.Accent, NightSheet) ?? Inks[1]);
        var ground = look.Night ?? (isDark ? look.Background : Contrast.Darkened(look.Background, Dusk));
        return Of(ground, look.Night is not null ? ground : isDark ? look.Sky ?? ground : Contrast.Darkened(look.Sky ?? look.Background, Dusk), accent);
    }

    private static PageColours Of(string ground, string sky, string accent) => new(ground, sky, Contrast.BestOn(ground, Inks), accent);
}
