using System.Net.Http.Headers;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.People;

/// <summary>
/// Tells the guarded site what the owner chose of whoever asks: headers of our own, which nobody outside can send, and one signed token. On the path of every
/// request of the gateway and of the check: what is not chosen costs nothing.
/// </summary>
public sealed class OriginKnowledge(OriginToken tokens)
{
    private static readonly (string Name, FactKind Kind, string Header)[] Kinds =
        [("roles", FactKind.Role, "X-Wary-Roles"), ("groups", FactKind.Group, "X-Wary-Groups"), ("plans", FactKind.Plan, "X-Wary-Plans")];

    /// <summary>Adds the headers to a request for the origin, or to an answer to whoever asks it; gives what of them tells one visitor from another.</summary>
    /// <param name="identity">Who asks.</param>
    /// <param name="policy">What is in force.</param>
    /// <param name="path">What they ask for.</param>
    /// <param name="isGuarded">Whether a gate has a say in it.</param>
    /// <param name="now">When.</param>
    /// <param name="headers">Where it is told.</param>
    public string Tell<T>(RequestIdentity identity, Policy policy, RequestPath path, bool isGuarded, DateTimeOffset now, T headers)
        where T : struct, IToldHeaders
    {
        var told = policy.Settings.OriginLearns;
        if (identity.Viewpoint is not null || told.Count == 0)
        {
            return "";
        }

        var (who, claims) = ("", told.Contains(OriginFacts.Token) ? new Dictionary<string, string[]>(StringComparer.Ordinal) : null);
        var isMember = identity.MemberHeader is not null && told.Contains(OriginFacts.Member);
        if (isMember)
        {
            headers.Add("X-Wary-Member", who = identity.MemberHeader!);
        }

        if (identity.MemberHeader is not null)
        {
            var facts = identity.Told is { } kept && kept.Holds(told, now) ? kept : identity.Told = FactsOf(identity.Visitor, told, now);
            who += facts.Who;
            foreach (var (name, header, keys, written) in facts.Parts)
            {
                headers.Add(header, written);
                claims?[name] = keys;
            }
        }

        if (told.Contains(OriginFacts.Gates) && isGuarded)
        {
            var gates = policy.Decide(identity.Visitor, path, Acts.Open, now).Reasons.Where(r => r.Guards).Select(r => r.Gate.Key)
                .Distinct().Order(StringComparer.Ordinal).ToArray();
            headers.Add("X-Wary-Gates", string.Join(',', gates));
            claims?[OriginFacts.Gates] = gates;
        }

        if (claims is not null)
        {
            var subject = isMember ? identity.Visitor.Email! : identity.Visitor.IsSignedIn ? "member" : "guest";
            headers.Add("X-Wary-Token", tokens.Of(subject, claims));
        }

        return who;
    }

    private static ToldFacts FactsOf(Visitor visitor, IReadOnlyList<string> told, DateTimeOffset now)
    {
        var parts = Kinds.Where(k => told.Contains(k.Name)).Select(k => (k.Name, k.Header, Keys: KeysOf(visitor, k.Kind, now)))
            .Select(k => (k.Name, k.Header, k.Keys, string.Join(',', k.Keys))).ToArray();
        var turns = visitor.Grants.SelectMany(g => new[] { g.From, g.Until }).Where(d => d > now).Select(d => d!.Value)
            .DefaultIfEmpty(DateTimeOffset.MaxValue).Min();
        return new ToldFacts(told, now, turns, parts, string.Concat(parts.Select(p => "\n" + p.Item4)));
    }

    /// <summary>Keys of facts in force, each once: the same role may be held twice, by hand and by plan.</summary>
    private static string[] KeysOf(Visitor visitor, FactKind kind, DateTimeOffset now)
    {
        var keys = new List<string>();
        foreach (var grant in visitor.Grants)
        {
            if (grant.Kind == kind && grant.IsInForce(now) && !keys.Contains(grant.Key))
            {
                keys.Add(grant.Key);
            }
        }

        return [.. keys];
    }
}

/// <summary>Facts of one visitor as the origin is told them.</summary>
/// <param name="Told">What the owner chose.</param>
/// <param name="From">Since when they are so.</param>
/// <param name="Until">Until when.</param>
/// <param name="Parts">The facts, as claims and as headers.</param>
/// <param name="Who">What of them tells one visitor from another.</param>
internal sealed record ToldFacts(
    IReadOnlyList<string> Told, DateTimeOffset From, DateTimeOffset Until, (string Name, string Header, string[] Keys, string Written)[] Parts, string Who)
{
    /// <summary>Whether they still are so.</summary>
    public bool Holds(IReadOnlyList<string> told, DateTimeOffset now) => ReferenceEquals(told, Told) && From <= now && now < Until;
}

/// <summary>Headers in which the origin is told who asks.</summary>
public interface IToldHeaders
{
    /// <summary>Adds one.</summary>
    void Add(string name, string value);
}

/// <summary>Those of a request that goes on to the origin.</summary>
public readonly struct RequestHeaders(HttpRequestHeaders headers) : IToldHeaders
{
    /// <inheritdoc/>
    public void Add(string name, string value) => headers.TryAddWithoutValidation(name, value);
}

/// <summary>Those of an answer to the proxy that passes them on; what is empty is left out.</summary>
public readonly struct AnsweredHeaders(IHeaderDictionary headers) : IToldHeaders
{
    /// <inheritdoc/>
    public void Add(string name, string value)
    {
        if (value.Length > 0)
        {
            headers[name] = value;
        }
    }
}
