using System.CommandLine;
using System.Globalization;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Insights;

/// <summary><c>wary ends</c>: the calendar of ends.</summary>
internal static class EndVerbs
{
    private static readonly Option<int> Days = new("--days") { Description = "Within so many days.", DefaultValueFactory = _ => 31 };
    private static readonly Option<int> Limit = new("--limit") { Description = "So many at most.", DefaultValueFactory = _ => 100 };

    public static Command Build() => With(new Command("ends", "What ends when, and for whom; what is followed by more is not among it."), Days, Limit).Does(
        async call =>
        {
            var found = await call.Client.EndsAsync(call.Get(Days), call.Get(Limit), call.Stop);
            return call.Out.Table(
                found.Ends, "Nothing ends in that time.", ("until", e => e.Until.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)),
                    ("who", e => e.Name),
                ("what", e => e.Title), ("fact", e => e.Fact));
        });
}
