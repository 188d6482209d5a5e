using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Storage;

namespace WarySentinel.Service.Check;

/// <summary>Searches: what somebody may, and who may something.</summary>
public sealed partial class AuthZenEndpoints
{
    private async Task<object> SearchResourcesAsync(JsonElement body, CancellationToken stop)
    {
        var asked = new AuthZenRequest(body);
        var run = NewRun();
        var (policy, now) = (run.Policy, asked.Time(run.Policy) ?? run.Now);
        var act = asked.Act();
        var type = asked.ResourceType;
        if (!ItemId.TryKind(type, out var kind))
        {
            throw new AuthZenException(Words.Of("authzen.resource-type", type));
        }

        var found = await VisitorAsync(asked, run, stop);
        var (limit, token) = PageAsked(body);
        var results = new List<object>();
        var next = "";
        var items = policy.Graph.Items;
        for (var place = found.IsGood ? FromToken(token, body) : items.Count; place < items.Count; place++)
        {
            if (items[place].Id.Kind != kind || !policy.Allows(found.Value.Visitor, place, act, now))
            {
                continue;
            }

            if (results.Count == limit)
            {
                next = Token(place, body);
                break;
            }

            results.Add(new { type, id = kind == ItemKind.Site ? "site" : items[place].Id.Key });
        }

        return new { results, page = new PageSaid(next, results.Count) };
    }

    private async Task<object> SearchSubjectsAsync(JsonElement body, CancellationToken stop)
    {
        var asked = new AuthZenRequest(body);
        var run = NewRun();
        var (policy, now) = (run.Policy, asked.Time(run.Policy) ?? run.Now);
        var act = asked.Act();
        var (item, path) = asked.Resource();
        var normal = path is null ? null : questions.PathOf(path, policy).Match(p => p, odd => throw new AuthZenException(odd.Detail.ToString()));
        bool May(Visitor visitor) => item is { } id ? policy.Allows(visitor, id, act, now) : policy.Allows(visitor, normal!, act, now);
        switch (asked.SubjectType)
        {
            case "role" or "group" or "plan":
                return Definitions(asked.SubjectType, policy, May, body);
            case "member" or "user":
                // Where a plain member may not, only those who hold a fact that a gate asks for can: nobody else need be looked at.
                var reasons = item is { } asks ? policy.Decide(Visitor.Guest, asks, act, now).Match(d => d.Reasons, _ => [])
                    : policy.Decide(Visitor.Guest, normal!, act, now).Reasons;
                return await MembersAsync(asked.SubjectType, May(Visitor.With()) ? null : FactsOf(reasons),
                    member => May(TermsBook.Of(policy).VisitorOf(member, now)), body, stop);
            case "guest" or "visitor":
                object[] found = May(Visitor.Guest) ? [new { type = asked.SubjectType, id = "guest" }] : [];
                return new { results = found, page = new PageSaid("", found.Length) };
            default:
                throw new AuthZenException(Words.Of("authzen.subject-type", asked.SubjectType));
        }
    }

    private static List<(FactKind, string)> FactsOf(IReadOnlyList<Reason> reasons) =>
        [.. reasons.SelectMany(r => r.Gate.Audience.FactsAsked()).Select(f => (f.Kind, f.Key)).Concat(Staff).Distinct()];

    /// <summary>The roles, groups or plans that may.</summary>
    private static object Definitions(string type, Policy policy, Func<Visitor, bool> may, JsonElement body)
    {
        var (limit, token) = PageAsked(body);
        var (results, next) = (new List<object>(), "");
        var all = policy.Definitions.Where(s => FactNames.NameOf(s.Kind) == type).ToList();
        for (var at = FromToken(token, body); at < all.Count && next.Length == 0; at++)
        {
            if (may(Visitor.With(new Grant(all[at].Kind, all[at].Key))))
            {
                next = results.Count == limit ? Token(at, body) : "";
                results.AddRange(next.Length == 0 ? [new { type, id = all[at].Key }] : Array.Empty<object>());
            }
        }

        return new { results, page = new PageSaid(next, results.Count) };
    }

    /// <summary>The members who may; among those who hold certain facts, where these alone can.</summary>
    private async Task<object> MembersAsync(
        string type, List<(FactKind, string)>? facts, Func<Member, bool> may, JsonElement body, CancellationToken stop)
    {
        var (limit, token) = PageAsked(body);
        var (results, next) = (new List<object>(), "");
        var after = token is null ? null : AfterToken(token, body);
        for (var more = true; more && next.Length == 0;)
        {
            var page = facts is null ? await store.MembersAsync(new MemberQuery(after, MostPage), stop)
                : await store.MembersHoldingAsync(facts, after, MostPage, stop);
            more = page.Count == MostPage;
            foreach (var member in page)
            {
                if (member.Status == MemberStatus.Active && may(member))
                {
                    if (results.Count == limit)
                    {
                        next = Token(after!, body);
                        break;
                    }

                    results.Add(new { type, id = member.Email });
                }

                after = member.Email;
            }
        }

        return new { results, page = new PageSaid(next, results.Count) };
    }

    private async Task<object> SearchActionsAsync(JsonElement body, CancellationToken stop)
    {
        var asked = new AuthZenRequest(body);
        var run = NewRun();
        var (policy, now) = (run.Policy, asked.Time(run.Policy) ?? run.Now);
        var (item, path) = asked.Resource();
        var found = await VisitorAsync(asked, run, stop);
        var read = path is null ? (Outcome<RequestPath>?)null : questions.PathOf(path, policy);
        var normal = read is { IsGood: true } good ? good.Value : null;
        var known = found.IsGood && (item is { } id ? policy.Graph.PlaceOf(id) >= 0 : normal is not null);
        var acts = known ? ActNames.Each.Where(a => item is { } it ? policy.Allows(found.Value.Visitor, it, a, now)
            : policy.Allows(found.Value.Visitor, normal!, a, now)) : [];
        var results = acts.Select(a => new { name = ActNames.NameOf(a) }).ToList();
        return new { results, page = new PageSaid("", results.Count) };
    }

    private static (int Limit, string? Token) PageAsked(JsonElement body)
    {
        if (!body.TryGetProperty("page", out var page) || page.ValueKind == JsonValueKind.Null)
        {
            return (UsualPage, null);
        }

        if (page.ValueKind != JsonValueKind.Object)
        {
            throw new AuthZenException(Words.Of("authzen.object", "page"));
        }

        var limit = UsualPage;
        if (page.TryGetProperty("limit", out var most))
        {
            limit = most.ValueKind == JsonValueKind.Number && most.TryGetInt32(out var said) && said > 0 ? Math.Min(said, MostPage)
                : throw new AuthZenException(Words.Of("authzen.limit"));
        }

        var token = "";
        if (page.TryGetProperty("token", out var text))
        {
            token = text.ValueKind == JsonValueKind.String ? text.GetString() : throw new AuthZenException(Words.Of("problem.cursor"));
        }

        return (limit, string.IsNullOrEmpty(token) ? null : token);
    }

    // A token is good for the very search that it was given for (Authorization API 1.0 §8.1).
    private static string Token(object at, JsonElement body) => System.Buffers.Text.Base64Url.EncodeToString(Encoding.UTF8.GetBytes($"{Mark(body)}:{at}"));

    private static string AfterToken(string token, JsonElement body)
    {
        try
        {
            var text = Encoding.UTF8.GetString(System.Buffers.Text.Base64Url.DecodeFromChars(token));
            var mark = Mark(body) + ":";
            return text.StartsWith(mark, StringComparison.Ordinal) ? text[mark.Length..] : throw new AuthZenException(Words.Of("problem.cursor"));
        }
        catch (FormatException)
        {
            throw new AuthZenException(Words.Of("problem.cursor"));
        }
    }

    private static int FromToken(string? token, JsonElement body) =>
        token is null ? 0 : int.TryParse(AfterToken(token, body), out var at) && at >= 0 ? at : 0;

    private static string Mark(JsonElement body)
    {
        var asked = string.Join('\n', body.EnumerateObject().Where(p => p.Name != "page").OrderBy(p => p.Name, StringComparer.Ordinal)
            .Select(p => p.Name + p.Value.GetRawText()));
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(asked)).AsSpan(0, 8));
    }
}
