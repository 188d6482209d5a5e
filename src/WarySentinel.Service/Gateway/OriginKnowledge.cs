using System.Net.Http.Headers;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gateway;

/// <summary>Tells the guarded site what the owner chose of whoever asks: headers of our own, which nobody outside can send, and one signed token.</summary>
internal sealed class OriginKnowledge(OriginToken tokens, TimeProvider time)
{
    private static readonly (string Name, FactKind Kind, string Header)[] Kinds =
        [("roles", FactKind.Role, "X-Wary-Roles"), ("groups", FactKind.Group, "X-Wary-Groups"), ("plans", FactKind.Plan, "X-Wary-Plans")];

    /// <summary>Adds the headers; gives what of them tells one visitor from another.</summary>
    public string Tell(ProxiedRequest passage, HttpRequestHeaders headers)
    {
        var identity = passage.RequestIdentity;
        var told = passage.Policy.Settings.OriginLearns;
        if (identity.Viewpoint is not null || told.Count == 0)
        {
            return "";
        }

        var now = time.GetUtcNow();
        var (who, claims) = ("", new Dictionary<string, string[]>(StringComparer.Ordinal));
        var isMember = identity.MemberHeader is not null && told.Contains(OriginFacts.Member);
        if (isMember)
        {
            headers.TryAddWithoutValidation("X-Wary-Member", who = identity.MemberHeader!);
        }

        foreach (var (name, kind, header) in identity.MemberHeader is null ? [] : Kinds)
        {
            if (told.Contains(name))
            {
                var keys = KeysOf(identity.Visitor, kind, now);
                headers.TryAddWithoutValidation(header, string.Join(',', keys));
                (claims[name], who) = (keys, who + "\n" + string.Join(',', keys));
            }
        }

        if (told.Contains(OriginFacts.Gates) && passage.Guarded)
        {
            var gates = passage.Policy.Decide(identity.Visitor, passage.Path, Acts.Open, now).Reasons.Where(r => r.Guards).Select(r => r.Gate.Key)
                .Distinct().Order(StringComparer.Ordinal).ToArray();
            headers.TryAddWithoutValidation("X-Wary-Gates", string.Join(',', gates));
            claims[OriginFacts.Gates] = gates;
        }

        if (told.Contains(OriginFacts.Token))
        {
            var subject = isMember ? identity.Visitor.Email! : identity.Visitor.IsSignedIn ? "member" : "guest";
            headers.TryAddWithoutValidation("X-Wary-Token", tokens.Of(subject, claims));
        }

        return who;
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
