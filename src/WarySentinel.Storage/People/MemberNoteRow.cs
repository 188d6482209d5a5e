using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.People;

internal sealed class MemberNoteRow
{
    public Guid Id { get; set; }

    public Guid MemberId { get; set; }

    public DateTimeOffset At { get; set; }

    public required string By { get; set; }

    public required string Text { get; set; }

    public static MemberNoteRow Of(MemberNote note) => new() { Id = note.Id, MemberId = note.Member, At = note.At, By = note.By, Text = note.Text };

    public MemberNote ToNote() => new(Id, MemberId, At, By, Text);

    public static void Map(EntityTypeBuilder<MemberNoteRow> e)
    {
        e.ToTable("member_notes");
        e.HasKey(r => r.Id);
        e.HasIndex(r => new { r.MemberId, r.At });
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}
