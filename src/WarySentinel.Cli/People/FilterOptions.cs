using System.CommandLine;
using WarySentinel.Contract.People;

namespace WarySentinel.Cli.People;

/// <summary>Which members are meant.</summary>
internal static class FilterOptions
{
    private static readonly Option<string?> Search = new("--search") { Description = "Only with this in name or address." };
    private static readonly Option<string?> Status = new("--status") { Description = "Only invited, unverified, pending, active, suspended or closed ones." };
    private static readonly Option<string?> Holds = new("--holds")
    { Description = "Only who holds this now: role:, group:, plan: or bought: with a key; whom a group's rule admits is in it." };
    private static readonly Option<string?> JoinedFrom = new("--joined-from") { Description = "Joined on that day or later." };
    private static readonly Option<string?> JoinedUntil = new("--joined-until") { Description = "Joined on that day or before." };
    private static readonly Option<string?> SeenFrom = new("--seen-from") { Description = "Last signed in on that day or later." };
    private static readonly Option<string?> SeenUntil = new("--seen-until") { Description = "Last signed in on that day or before." };
    private static readonly Option<bool> Never = new("--never-seen") { Description = "Never signed in." };

    private static readonly Option<string[]> Answer = new("--answer")
    {
        Description = "Who answered a field so: town, town:port (a part), sky=moon (the very answer), \"telescopes>=2\", \"*:port\" (any field). "
            + "Said several times, each of them.",
    };

    /// <summary>The order of a list.</summary>
    public static readonly Option<string?> Sort = new("--sort") { Description = "email (usual), name, joined or seen; -joined has the newest first." };

    /// <summary>All that narrow it.</summary>
    public static readonly IReadOnlyList<Option> All = [Search, Status, Holds, JoinedFrom, JoinedUntil, SeenFrom, SeenUntil, Never, Answer];

    /// <summary>What was said of them.</summary>
    public static MemberFilter Of(Call call) => new(
        call.Get(Search), call.Get(Status), call.Get(Holds), call.Get(JoinedFrom), call.Get(JoinedUntil), call.Get(SeenFrom), call.Get(SeenUntil),
        call.Get(Never) ? true : null, call.Get(Sort), call.Get(Answer) is { Length: > 0 } answers ? answers : null);

    /// <summary>Whether anything narrows it.</summary>
    public static bool Any(MemberFilter filter) => filter with { Sort = null } != new MemberFilter();
}
