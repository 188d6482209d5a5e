using WarySentinel.Core.Access;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Pages;

/// <summary>What a page of ours is given before it is made: the visitor's language, and a look that somebody tries.</summary>
internal static class PageDress
{
    private static readonly AsyncLocal<SiteLook?> Trying = new();

    /// <summary>The look that is tried in this piece of work; null for the site's.</summary>
    public static SiteLook? Tried => Trying.Value;

    /// <summary>Chooses the language and the look before a page is made.</summary>
    public static void UsePageDress(this IApplicationBuilder own, IServiceProvider services)
    {
        var (visitors, policies, previews) = (services.GetRequiredService<VisitorReader>(), services.GetRequiredService<PolicyHolder>(),
            services.GetRequiredService<Previews>());
        var samples = services.GetRequiredService<SamplePages>();
        own.Use(next => async http =>
        {
            if (samples.IdentityOf(http) is { } sample)
            {
                http.Features.Set(sample);
            }

            await visitors.ReadAsync(http);
            PageLanguage.Speak(http, policies.Current);
            Wear(http, previews, policies.Current);
            await next(http);
        });
    }

    /// <summary>Puts on what the address says, for the rest of this piece of work: a look that is tried, by day or by night.</summary>
    public static void Wear(HttpContext http, Previews previews, Policy policy) =>
        Trying.Value = Themed(http, previews.Find<SiteLook>(http.Request.Query["look"]), policy.Settings.Look);

    /// <summary>By day or by night where the address says so, as the console does to show both; else as it is set.</summary>
    private static SiteLook? Themed(HttpContext http, SiteLook? tried, SiteLook look) => http.Request.Query["theme"].ToString() switch
    {
        "light" => (tried ?? look) with { Theme = PageTheme.Light },
        "dark" => (tried ?? look) with { Theme = PageTheme.Dark },
        _ => tried,
    };
}
