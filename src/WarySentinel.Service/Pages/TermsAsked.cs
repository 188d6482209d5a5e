using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Service.Access;

namespace WarySentinel.Service.Pages;

/// <summary>Leads whoever comes in past the terms that they have to be asked about.</summary>
public sealed class TermsAsked(PolicyHolder policies, ServiceOptions options, TimeProvider time)
{
    /// <summary>Where a member goes first who would land somewhere.</summary>
    public string Via(Member member, string landing) => TermsBook.Of(policies.Current).DueFor(member.AsVisitor(), member.Said, time.GetUtcNow()).Count == 0
        ? landing : AgreePages.AddressOf(options.AccountPrefix, landing);
}
