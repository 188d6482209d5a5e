using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>What is swept, and how it is asked.</summary>
/// <param name="Policy">What decides.</param>
/// <param name="Now">When.</param>
/// <param name="Probes">The ways in which it is asked.</param>
/// <param name="Hosts">The hosts under which the site is known.</param>
/// <param name="Reserved">Path prefixes of the service itself.</param>
/// <param name="Own">How the guarded site itself is asked, around the service; null where it is not known.</param>
/// <param name="Http">What asks.</param>
internal sealed record SweepSite(
    Policy Policy, DateTimeOffset Now, IReadOnlyList<SweepProbe> Probes, IReadOnlySet<string> Hosts, IReadOnlyList<string> Reserved, SweepProbe? Own,
    HttpClient Http)
{
    /// <summary>Whether somebody outside would get it so.</summary>
    public static bool IsOutsider(SweepProbe probe) => probe.As.Key == "guest" && probe.Via != SweepVia.Origin;

    /// <summary>The path that an address is read as; null where it has none, or two.</summary>
    public RequestPath? PathOf(string address) => RequestPath.TryNormalise(address, Policy.Settings.Paths, out var path, out _) ? path : null;

    /// <summary>Whether any gate guards an address.</summary>
    public bool IsGuarded(string address) => PathOf(address) is { } path && Policy.Judge(Visitor.Guest, path, Now).Guarded;

    /// <summary>What is wrong with an answer.</summary>
    public IEnumerable<SweepFinding> Judge(SweepProbe probe, SweepTarget target, SweepVia via, Sighting seen) =>
        SweepRules.Judge(Policy, probe.As.Visitor, probe.As.Key, target, via, seen, Hosts, Reserved, Now);

    /// <summary>What is wrong with an answer by which somebody is refused, or that says that nothing is there.</summary>
    public IEnumerable<SweepFinding> JudgeRefusal(SweepProbe probe, SweepTarget target, Sighting seen) =>
        SweepRules.NamedInRefusal(Policy, probe.As.Visitor, probe.As.Key, target, probe.Via, seen, Hosts, Reserved, Now);
}
