namespace WarySentinel.Core.People;

/// <summary>What a link in a letter is for.</summary>
public enum LinkPurpose
{
    /// <summary>Joining an organisation.</summary>
    Organisation,
    /// <summary>Setting a new password.</summary>
    SetPassword,
    /// <summary>Setting the first password of an account that staff made.</summary>
    Invitation,
    /// <summary>Proving the address of an account.</summary>
    Confirm,
    /// <summary>Taking another address; the link goes to that one.</summary>
    NewAddress,
    /// <summary>Signing in without a password.</summary>
    SignIn,
    /// <summary>Staff saying yes or no to somebody who asks to join.</summary>
    Approval,
    /// <summary>An applicant seeing where their request stands, and mending it. It works until the request is decided.</summary>
    Application,
}

/// <summary>Why a link counts no longer.</summary>
public enum LinkEnd
{
    /// <summary>It was used.</summary>
    Used,
    /// <summary>A newer one was sent.</summary>
    Replaced,
    /// <summary>Whoever sent it took it back.</summary>
    Withdrawn,
}

/// <summary>
/// A link that works once: for one purpose, one address, until its end. Only its digest is kept. To look at its page uses nothing up (programs that read
/// mail look at every link); sending the form does.
/// </summary>
/// <param name="Id">Its own name.</param>
/// <param name="Purpose">What it is for.</param>
/// <param name="Digest">The SHA-256 of what stands in the link.</param>
/// <param name="Subject">What it is about, such as the organisation.</param>
/// <param name="Address">The e-mail address it was sent to, which it proves.</param>
/// <param name="CreatedAt">When it was made.</param>
/// <param name="Until">When it ends.</param>
public sealed record SingleUseLink(
    Guid Id, LinkPurpose Purpose, Secret Digest, Guid Subject, string Address, DateTimeOffset CreatedAt, DateTimeOffset Until)
{
    /// <summary>When it was closed before its end; null where it was not.</summary>
    public DateTimeOffset? ClosedAt { get; init; }

    /// <summary>Why.</summary>
    public LinkEnd? ClosedBy { get; init; }

    /// <summary>
    /// The SHA-256 of what stands in the link together with the code that has to be typed; null where following it is enough. Such a link stands in no
    /// letter: the browser that asked holds it, and the letter brings the code.
    /// </summary>
    public Secret? Code { get; init; }

    /// <summary>How often a code was tried.</summary>
    public int Tries { get; init; }

    /// <summary>Whether it can be used.</summary>
    public bool IsOpen(DateTimeOffset now) => ClosedAt is null && now < Until;
}

/// <summary>Keeps a link.</summary>
public sealed record LinkAdded(SingleUseLink Link) : Change.OfPeople;

/// <summary>Uses a link up, unless it is closed already.</summary>
public sealed record LinkUsed(Guid Id) : Change.OfPeople;

/// <summary>Refuses the whole edit where a link for that was made since then: whoever asked at the same moment was faster.</summary>
public sealed record NoLinkSince(LinkPurpose Purpose, Guid Subject, DateTimeOffset Since) : Change.OfPeople;

/// <summary>
/// Closes what links there are about that: of that purpose and to that address; of whatever purpose, and to whatever address, where none is named.
/// </summary>
public sealed record LinksClosed(LinkPurpose? Purpose, Guid Subject, string? Address, LinkEnd By) : Change.OfPeople;
